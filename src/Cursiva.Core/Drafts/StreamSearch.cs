using System.Text;

namespace Cursiva.Core.Drafts;

/// <summary>Whether an answer is a stream of rows: JSON lines, a JSON text sequence, CSV, or one array too large for a page.</summary>
internal sealed class StreamSearch(DraftOrder order)
{
    private const int LargestPage = 16 * 1024 * 1024;

    /// <summary>What is known of the listing; null where it is not a stream.</summary>
    public DraftFacts? Find(KeptAnswer answer)
    {
        var start = answer.Body.AsSpan().TrimStart(" \t\r\n\uFEFF"u8);
        if (answer.ContentType == "text/csv" || (answer.ContentType is "text/plain" or "application/csv" && LooksLikeCsv(answer.Body)))
            return Stream("csv", $"CSV with the header {Encoding.UTF8.GetString(answer.Body).Split('\n')[0].TrimEnd('\r')}", []);
        if (answer.ContentType == "application/json-seq" || start is [0x1E, ..])
            return SampleRows.OfLines(answer.Body) is { } sequence
                ? Stream("sequence", $"a JSON text sequence of {sequence.Count:N0} rows", sequence)
                : null;
        if (start is [(byte)'{', ..] && SampleRows.Parse(answer.Body) is null && SampleRows.OfLines(answer.Body) is { Count: > 0 } lines)
            return Stream("lines", $"{lines.Count:N0} rows, one on each line", lines);
        if (answer.ContentType is "application/x-ndjson" or "application/jsonl" && SampleRows.OfLines(answer.Body) is { } told)
            return Stream("lines", $"{told.Count:N0} rows, one on each line", told);
        if (start is [(byte)'[', ..] && answer.Body.Length > LargestPage && SampleRows.Parse(answer.Body) is { } array)
            return Stream("array", $"one array of {array.GetArrayLength():N0} rows", [.. array.EnumerateArray().Take(20_000)]);
        return null;
    }

    private DraftFacts Stream(string form, string words, IReadOnlyList<System.Text.Json.JsonElement> rows) =>
        new(
            new DraftedPull(order.Address, "\"\"", new PagingGuess($"stream: {form}", words) { IsStream = true }) { Body = order.Body },
            words,
            rows)
        { IsProven = true, PagingWords = words };

    private static bool LooksLikeCsv(byte[] body)
    {
        var lines = Encoding.UTF8.GetString(body).Split('\n').Take(3).ToList();
        return lines.Count > 1
            && lines[0].Contains(',', StringComparison.Ordinal)
            && lines[1].Count(c => c == ',') >= lines[0].Count(c => c == ',');
    }
}
