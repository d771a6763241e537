using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Drafts;

/// <summary>What was saved of an API: one answer, a recording, or a folder of answers. Nothing of it needs a network.</summary>
/// <param name="Address">The listing.</param>
/// <param name="Body">The JSON body of its request; null for a GET.</param>
/// <param name="Answers">Answers for what was saved.</param>
/// <param name="Remarks">What is to be known of it, line by line.</param>
public sealed record DraftSource(AskedAddress Address, string? Body, HttpMessageHandler Answers, IReadOnlyList<string> Remarks)
{
    private const string MadeUp = "https://api.example/v1/";
    private const int MostOthers = 5;

    /// <summary>Opens a file or folder.</summary>
    /// <param name="address">Where it came from, or the listing that is meant; null where it tells by itself.</param>
    /// <exception cref="RefusedException">It cannot be read, or has nothing that a job could be drafted from.</exception>
    public static DraftSource Open(string path, string? address, Redactor redactor)
    {
        try
        {
            if (Directory.Exists(path))
                return OfAnswers(
                    [.. Directory.GetFiles(path).Where(file => !Path.GetFileName(file).StartsWith('.')).Order(StringComparer.Ordinal)],
                    Path.GetFileName(Path.TrimEndingDirectorySeparator(Path.GetFullPath(path))),
                    address,
                    redactor);
            var bytes = File.ReadAllBytes(path);
            return Recording.Is(bytes)
                ? OfRecording(Recording.Read(path), path, address, redactor)
                : OfAnswers([path], Path.GetFileNameWithoutExtension(path), address, redactor);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Refuse($"'{path}' cannot be read: {error.Message}", "name an address (https://...), a file or a folder", error);
        }
    }

    // Files in the order of their names are pages that follow each other, where their links say where.
    private static DraftSource OfAnswers(IReadOnlyList<string> files, string name, string? address, Redactor redactor)
    {
        List<byte[]> bodies = [.. files.Select(File.ReadAllBytes)];
        if (bodies.Count == 0)
            throw Refuse($"the folder '{name}' has no file", "save answers into it, for instance with cursiva call URL --to FILE");
        if (bodies.Exists(body => body.AsSpan().TrimStart(" \t\r\n\uFEFF"u8) is [(byte)'<', ..]))
            throw Refuse(
                $"{files[bodies.FindIndex(body => body.AsSpan().TrimStart(" \t\r\n\uFEFF"u8) is [(byte)'<', ..])]} is a web page or XML, not JSON",
                "save the API's answer, not a page of its documentation");
        var pages = bodies.ConvertAll(body => SampleRows.Parse(body) is { } root ? PageMember.Of(root, []) : []);
        var told = address
            ?? pages.SelectMany(page => page).FirstOrDefault(
                member => member.Value.ValueKind == JsonValueKind.String
                    && AskedAddress.Is(member.Value.GetString()!)
                    && (PageNames.IsNext(member.PlainPlace)
                        || member.PlainPlace.Contains("self", StringComparison.Ordinal)))?.Value.GetString()?.Split(
            '?')[0];
        var where = AskedAddress.TryParse(told ?? MadeUp + YamlText.Name(name)) ?? throw Refuse(
            $"'{told}' is not an address", "name the address with --address");
        var exchanges = new List<RecordedExchange> { Exchange(where.Whole, bodies[0]) };
        for (var number = 0; number + 1 < bodies.Count; number++)
        {
            if (pages[number].FirstOrDefault(
                member => member.Value.ValueKind == JsonValueKind.String
                    && PageNames.IsNext(member.PlainPlace)
                    && Uri.TryCreate(where.Whole, member.Value.GetString(), out _)) is { } link)
                exchanges.Add(Exchange(new Uri(where.Whole, link.Value.GetString()), bodies[number + 1]));
        }

        return new DraftSource(
            where,
            null,
            new RecordedAnswers(new Recording(exchanges, null), name, redactor),
            told is null ? ["The address is made up, since nothing shows it: write the API's own into base: and get:"] : []);
    }

    private static DraftSource OfRecording(Recording recording, string path, string? address, Redactor redactor)
    {
        List<(RecordedExchange Exchange, int Rows)> listings =
        [
            .. recording.Exchanges.Where(
                exchange => exchange is { Status: 200, Body.Length: > 0 }
                    && (exchange.Method == "GET" || (exchange.Method == "POST" && exchange.Asked?.TrimStart().StartsWith('{') == true)))
                .Select(exchange => (exchange, Rows: RowsOf(exchange.Body!))).Where(pair => pair.Rows > 0),
        ];
        if (listings.Count == 0)
        {
            throw recording.Exchanges.Any(exchange => exchange is { Status: 200, Body: null })
                ? Refuse(
                    $"the recording {path} has no bodies",
                    "save it with content, which is an option in a browser's network view; or record with cursiva call URL --trace FILE")
                : Refuse($"the recording {path} has no answer with rows", "record the request of a listing");
        }

        var places = listings.GroupBy(pair => pair.Exchange.Uri.GetLeftPart(UriPartial.Path))
            .OrderByDescending(group => group.Sum(pair => pair.Rows))
            .ToList();
        var chosen = address is null
            ? places[0]
            : places.Find(group => group.Key == address.Split('?')[0]) ?? throw Refuse(
                $"the recording {path} has no listing at {address}",
                $"it has {string.Join(", ", places.Take(MostOthers).Select(group => OneLine.Of(group.Key)))}");
        var first = chosen.First().Exchange;
        var where = AskedAddress.TryParse(first.Uri.AbsoluteUri)!;
        string[] others = [.. places.Where(group => group.Key != chosen.Key).Take(MostOthers).Select(
            group => $"The recording also has {group.Key} ({group.Sum(pair => pair.Rows):N0} rows): cursiva draft {ShellWord.Of(path)} --address {ShellWord.Of(group.Key)}")];
        return new DraftSource(where, first.Method == "POST" ? first.Asked : null, new RecordedAnswers(recording, path, redactor), others);
    }

    private static int RowsOf(byte[] body) =>
        SampleRows.Parse(body) is { } root ? RowsSearch.In(root) is [var place, ..]
            && place.Yaml != "{ one: true }" ? place.Rows : 0 : SampleRows.OfLines(body)?.Count ?? 0;

    private static RecordedExchange Exchange(Uri address, byte[] body) =>
        new("GET", address, null, 200, [new("Content-Type", TypeOf(body))], body, "");

    private static string TypeOf(byte[] body) =>
        body.AsSpan().TrimStart(" \t\r\n\uFEFF\u001e"u8) is [(byte)'{' or (byte)'[' or (byte)'"', ..] ? "application/json" : "text/csv";

    private static RefusedException Refuse(string what, string next, Exception? error = null) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next }, error);
}
