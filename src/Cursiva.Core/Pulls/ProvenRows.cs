using System.Buffers;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Verifies the rows of a pull that are signed, says by which key, and compares rows with the pull's schema, before they land.
/// </summary>
/// <param name="signatures">Verifies; null where nothing is signed.</param>
internal sealed class ProvenRows(Pull pull, SignatureDesk? signatures, DocumentSchemas schemas)
{
    private readonly SignatureCheck? _rows = signatures?.Rows;
    private readonly string? _pageBy = signatures?.Answers?.By;

    /// <summary>Whether rows land as they came.</summary>
    public bool AreAsTheyCame => _rows is null && _pageBy is null && pull.Schema is null;

    /// <summary>The rows as they land.</summary>
    /// <param name="lines">The rows as JSON lines.</param>
    /// <param name="verifiedBy">What tells the key by which the whole answer was verified; null where it was not.</param>
    /// <exception cref="PageException">A row does not fit the schema, or has a member of its own where one of ours would stand.</exception>
    /// <exception cref="Refusals.RefusedException">A row does not verify, and the job keeps nothing unverified.</exception>
    public ReadOnlySpan<byte> Of(ReadOnlySpan<byte> lines, string? verifiedBy)
    {
        var proven = new ArrayBufferWriter<byte>(Math.Max(1, lines.Length));
        for (var number = 1; lines.IndexOf((byte)'\n') is >= 0 and var end; number++)
        {
            var row = lines[..end];
            if (_rows is { } check)
                row = Verified(row, check, number);
            if (_pageBy is { } by)
                row = Join(row, [(by, Json(verifiedBy))], number);
            if (pull.Schema is { } schema && schemas.Objection(schema, row) is { } objection)
                throw new PageException($"row {number} does not match the schema {schema}: {objection}");
            proven.Write(row);
            proven.Write("\n"u8);
            lines = lines[(end + 1)..];
        }

        return proven.WrittenSpan;
    }

    private ReadOnlySpan<byte> Verified(ReadOnlySpan<byte> row, SignatureCheck check, int number)
    {
        byte[]? payload = null;
        string? mark = null;
        try
        {
            var text = JsonFind.Text(row, check.At!) ?? throw new PayloadException($"it has no signed text at {check.At!.Text}");
            (payload, mark) = signatures!.Verify(
                text, check.Form == SignatureForms.Detached ? SignatureDesk.PayloadOf(row, check.PayloadAt) : null, check);
        }
        catch (PayloadException error)
        {
            signatures!.Unverified(check, $"row {number} of a page of pull '{pull.Name}'", error, null);
        }

        if (payload is not null && check.Form == SignatureForms.Jws && check.JoinsAs is null)
            row = OneLine(payload)
                ?? throw new PageException(
                    $"the payload that row {number} has at {check.At!.Text} verifies, but is not a JSON object and cannot replace the row; with payload: NAME it becomes a member of the row");
        List<(string, byte[])> joined = [];
        if (check.JoinsAs is { } name)
            joined.Add((name, payload is null ? "null"u8.ToArray() : OneLine(payload) ?? Json(Encoding.UTF8.GetString(payload))));
        if (check.By is { } by)
            joined.Add((by, Json(mark)));
        return Join(row, joined, number);
    }

    // Members of our own go behind the row's; what already has one of that name could pass itself off as verified.
    private static ReadOnlySpan<byte> Join(ReadOnlySpan<byte> row, IReadOnlyList<(string Name, byte[] Value)> members, int number)
    {
        if (members.Count == 0)
            return row;
        var joined = new ArrayBufferWriter<byte>(row.Length + 100);
        joined.Write(row[..row.LastIndexOf((byte)'}')]);
        var comma = row.Contains((byte)'"');
        foreach (var (name, value) in members)
        {
            if (!JsonFind.Raw(row, JsonPointer.ToField(name)).IsEmpty)
                throw new PageException(
                    $"row {number} already has a member '{name}', which signatures: would write: give by: or payload: another name");
            if (comma)
                joined.Write(","u8);
            comma = true;
            joined.Write(Json(name));
            joined.Write(":"u8);
            joined.Write(value);
        }

        joined.Write("}"u8);
        return joined.WrittenSpan;
    }

    // The payload as a row of one line; null where it is not a JSON object.
    private static byte[]? OneLine(byte[] payload)
    {
        try
        {
            var reader = new Utf8JsonReader(payload);
            if (!reader.Read() || reader.TokenType != JsonTokenType.StartObject)
                return null;
            reader.Skip();
            while (reader.Read())
            {
                // Nothing follows, or it is not JSON.
            }

            byte[] line = [.. payload, (byte)'\n'];
            return line[..(RowCompaction.Compact(line) - 1)];
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static byte[] Json(string? text) =>
        text is null ? "null"u8.ToArray() : JsonSerializer.SerializeToUtf8Bytes(text, PlainJson.Default.String);
}
