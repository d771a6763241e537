using System.Globalization;
using System.Text.Json.Nodes;
using CsvHelper;
using CsvHelper.Configuration;

namespace Cursiva.Core.Pulls;

/// <summary>The rows of CSV with a header (RFC 4180), every field as text; an empty field is an empty text.</summary>
internal static class CsvRows
{
    private const long LargestField = 1024 * 1024;

    /// <exception cref="PageException">It is not CSV.</exception>
    public static IEnumerable<JsonObject> Read(TextReader reader)
    {
        using var csv = Parser(reader, LargestField);
        while (Next(csv, () => csv.Read()))
            yield return Row(csv);
    }

    /// <summary>The same, read as it arrives.</summary>
    /// <param name="largestField">Most characters that one field may have.</param>
    /// <exception cref="PageException">It is not CSV.</exception>
    /// <exception cref="MaxFieldSizeException">A field is larger.</exception>
    public static async IAsyncEnumerable<JsonObject> ReadAsync(
        TextReader reader, long largestField, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel)
    {
        using var csv = Parser(reader, largestField);
        if (!await csv.ReadAsync())
            yield break;
        ReadHeader(csv);
        while (await csv.ReadAsync())
        {
            cancel.ThrowIfCancellationRequested();
            yield return Row(csv);
        }
    }

    private static CsvReader Parser(TextReader reader, long largestField) => new(reader, new CsvConfiguration(CultureInfo.InvariantCulture)
    {
        DetectDelimiter = false,
        BadDataFound = bad => throw new PageException($"not CSV: there is a misplaced quote near '{bad.Field}'"),
        IgnoreBlankLines = true,
        MaxFieldSize = largestField,
    });

    private static bool Next(CsvReader csv, Func<bool> read)
    {
        if (csv.HeaderRecord is null)
        {
            if (!read())
                return false;
            ReadHeader(csv);
        }

        return read();
    }

    // Two fields of one name would be one column.
    private static void ReadHeader(CsvReader csv)
    {
        csv.ReadHeader();
        if (csv.HeaderRecord!.GroupBy(name => name).FirstOrDefault(group => group.Count() > 1) is { } twice)
            throw new PageException($"not CSV with a header: it has the field '{Secrets.OneLine.Of(twice.Key)}' {twice.Count()} times");
    }

    private static JsonObject Row(CsvReader csv)
    {
        var header = csv.HeaderRecord!;
        if (csv.Parser.Count != header.Length)
            throw new PageException($"not CSV: line {csv.Parser.Row} has {csv.Parser.Count} fields, but the header has {header.Length}");
        return new JsonObject(
            header.Select((name, place) => KeyValuePair.Create<string, JsonNode?>(name, JsonValue.Create(csv.Parser[place]))));
    }
}
