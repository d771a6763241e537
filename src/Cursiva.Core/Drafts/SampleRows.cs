using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Drafts;

/// <summary>Rows as they were seen.</summary>
internal static class SampleRows
{
    private const int Most = 20_000;

    /// <summary>Landed rows as JSON.</summary>
    public static IReadOnlyList<JsonElement> Of(IEnumerable<byte[]> rows) =>
        [.. rows.Take(Most).Select(row => Parse(row)).OfType<JsonElement>()];

    /// <summary>The rows of a body of JSON lines or of a JSON text sequence (RFC 7464); null where it is neither.</summary>
    public static IReadOnlyList<JsonElement>? OfLines(ReadOnlySpan<byte> body)
    {
        var rows = new List<JsonElement>();
        foreach (var line in Encoding.UTF8.GetString(body).Split('\n').Select(line => line.Trim('\u001e', '\r', ' ', '\uFEFF')).Where(
            line => line.Length > 0))
        {
            if (Parse(Encoding.UTF8.GetBytes(line)) is not { ValueKind: JsonValueKind.Object } row)
                return rows.Count > 1 ? rows : null;
            rows.Add(row);
            if (rows.Count == Most)
                break;
        }

        return rows.Count > 0 ? rows : null;
    }

    /// <summary>A body as JSON; null where it is none.</summary>
    public static JsonElement? Parse(ReadOnlyMemory<byte> json)
    {
        try
        {
            using var document = JsonDocument.Parse(json, new JsonDocumentOptions { MaxDepth = 256 });
            return document.RootElement.Clone();
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
