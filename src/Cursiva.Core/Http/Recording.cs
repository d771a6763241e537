using System.Text;
using System.Text.Json;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>Exchanges that were recorded in a file in the HAR 1.2 format, by Cursiva or by a browser.</summary>
/// <param name="Exchanges">In the order in which they were recorded.</param>
/// <param name="Notes">What Cursiva noted of the run beside them; null where another program has recorded it.</param>
public sealed record Recording(IReadOnlyList<RecordedExchange> Exchanges, JsonElement? Notes)
{
    /// <summary>The member in which Cursiva notes what a rehearsal needs; HAR leaves names with an underscore to programs.</summary>
    public const string NotesMember = "_cursiva";

    /// <summary>The member of a body that stands as it was sent, compressed.</summary>
    public const string PackedMember = "_packed";

    /// <summary>Whether a text looks like a recording.</summary>
    public static bool Is(ReadOnlySpan<byte> file) =>
        Encoding.UTF8.GetString(file[..Math.Min(file.Length, 4096)]) is var start
            && start.Contains("\"log\"", StringComparison.Ordinal)
            && (start.Contains("\"entries\"", StringComparison.Ordinal) || start.Contains("\"creator\"", StringComparison.Ordinal));

    /// <summary>Reads a recording.</summary>
    /// <exception cref="RefusedException">The file cannot be read, or is not a recording.</exception>
    public static Recording Read(string path)
    {
        try
        {
            using var document = JsonDocument.Parse(Whole(File.ReadAllBytes(path)));
            var log = document.RootElement.GetProperty("log");
            return new Recording(
                [.. log.GetProperty("entries").EnumerateArray().Select(Exchange)],
                log.TryGetProperty(NotesMember, out var notes) ? notes.Clone() : null);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Refuse($"the recording {path} cannot be read: {error.Message}", "name a file that exists and that you may read", error);
        }
        catch (Exception error) when (
            error is JsonException or KeyNotFoundException or InvalidOperationException or FormatException or UriFormatException)
        {
            throw Refuse(
                $"{path} is not a recording in the HAR 1.2 format: {error.Message.Split('\n')[0]}",
                "record one with --trace, or save one from a browser's network view",
                error);
        }
    }

    // A process that was killed has not closed its recording.
    private static byte[] Whole(byte[] file)
    {
        var text = file.AsSpan().TrimEnd(" \r\n\t"u8);
        return text.EndsWith("]}}"u8) || text.EndsWith("}}"u8) || !text.Contains((byte)'{') || IsWhole(file)
            ? file
            : [.. text.TrimEnd(","u8), .. "]}}"u8];
    }

    private static bool IsWhole(byte[] file)
    {
        try
        {
            using var document = JsonDocument.Parse(file);
            return true;
        }
        catch (JsonException)
        {
            return false;
        }
    }

    private static RecordedExchange Exchange(JsonElement entry)
    {
        var (request, response) = (entry.GetProperty("request"), entry.GetProperty("response"));
        var content = response.GetProperty("content");
        return new RecordedExchange(
            request.GetProperty("method").GetString()!,
            new Uri(request.GetProperty("url").GetString()!),
            request.TryGetProperty("postData", out var sent) ? Text(sent, "text") : null,
            response.GetProperty("status").GetInt32(),
            [.. response.GetProperty("headers")
                .EnumerateArray()
                .Select(
                    header => KeyValuePair.Create(header.GetProperty("name").GetString()!, header.GetProperty("value").GetString() ?? ""))
                .Where(header => !header.Key.StartsWith(':'))],
            Body(content, response.GetProperty("status").GetInt32()),
            Text(content, "comment") ?? Text(response, "comment") ?? "")
        {
            IsPacked = content.TryGetProperty(PackedMember, out var packed) && packed.ValueKind == JsonValueKind.True,
            IsSignIn = sent.ValueKind == JsonValueKind.Object && sent.TryGetProperty("params", out var form) && form.GetRawText().Contains(
                "grant_type", StringComparison.Ordinal),
            Began = entry.TryGetProperty("startedDateTime", out var began)
                && began.ValueKind == JsonValueKind.String
                && began.TryGetDateTimeOffset(
                out var time) ? time : DateTimeOffset.UnixEpoch,
        };
    }

    private static byte[]? Body(JsonElement content, int status)
    {
        if (Text(content, "text") is { } text)
            return Text(content, "encoding") == "base64" ? Convert.FromBase64String(text) : Encoding.UTF8.GetBytes(text);
        return status is 204 or 304
            || (content.TryGetProperty("size", out var size)
                && size.ValueKind == JsonValueKind.Number
                && size.GetInt64() == 0
                && Text(content, "comment") is null)
            ? []
            : null;
    }

    private static string? Text(JsonElement element, string name) =>
        element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString() : null;

    private static RefusedException Refuse(string what, string next, Exception error) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next }, error);
}
