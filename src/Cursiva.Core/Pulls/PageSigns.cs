using System.Text.Json;
using System.Text.RegularExpressions;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Pulls;

/// <summary>What a page has beside its rows that hints at another page, whatever the job declares.</summary>
/// <param name="Members">The places of members and the names of headers that may lead on, for messages.</param>
/// <param name="Hints">What hints at more, in words.</param>
/// <param name="Totals">Members that may tell how many rows there are in all.</param>
/// <param name="Error">The member that speaks of an error, with its value cut short; null without one.</param>
internal sealed partial record PageSigns(
    IReadOnlyList<string> Members, IReadOnlyList<string> Hints, IReadOnlyList<KeyValuePair<string, long>> Totals, string? Error)
{
    private const int Deepest = 3;
    private const int MostMembers = 40;
    private const int MostShown = 8;

    public static PageSigns None { get; } = new([], [], [], null);

    /// <summary>Looks at a page before its rows are rewritten.</summary>
    /// <param name="rows">Where the rows are: they are not looked into.</param>
    public static PageSigns Of(Answer answer, JsonPointer rows)
    {
        var found = new Found();
        if (answer.Header("Link") is { } link && LinkHeader.Find(link, "next") is not null)
            found.Hints.Add("a Link header with rel=next");
        foreach (var (name, _) in answer.Headers.Where(
            header => LeadsOn().IsMatch(header.Key.Replace("-", "")) && header.Value.Any(value => value.Length > 0)))
            found.Hints.Add($"the header {OneLine.Of(name)}");
        try
        {
            var reader = new Utf8JsonReader(answer.Body.Content, new JsonReaderOptions { MaxDepth = 256 });
            Walk(ref reader, "", rows.Text, found, 0);
        }
        catch (JsonException)
        {
            // What is not JSON is told by whoever reads it whole.
        }

        return new PageSigns(found.Members, found.Hints, found.Totals, found.Error);
    }

    /// <summary>Whether a number of rows looks like a limit.</summary>
    public static bool IsRound(int rows) =>
        rows >= 10 && (rows % 50 == 0 || rows is 10 or 20 or 25 or 30 or 40 or 75 or 128 or 256 or 512 or 1024);

    /// <summary>The members in the order in which they resemble what was looked for.</summary>
    public string Nearest(string wanted) => Members.Count == 0 ? "the page has nothing else"
        : $"the page has {string.Join(", ", Members.OrderBy(member => Jobs.Nearest.Distance(Last(member), Last(wanted))).Take(MostShown).Select(OneLine.Of))}";

    private static string Last(string place) => place[(place.LastIndexOf('/') + 1)..].ToLowerInvariant();

    private static void Walk(ref Utf8JsonReader reader, string at, string rows, Found found, int depth)
    {
        if (reader.TokenType == JsonTokenType.None && !reader.Read())
            return;
        if (reader.TokenType != JsonTokenType.StartObject || depth >= Deepest || (at == rows && depth > 0))
        {
            reader.Skip();
            return;
        }

        while (reader.Read() && reader.TokenType == JsonTokenType.PropertyName)
        {
            var name = reader.GetString()!;
            var place = $"{at}/{name.Replace("~", "~0").Replace("/", "~1")}";
            reader.Read();
            if (place != rows)
                Look(reader, name, place, found, depth);
            Walk(ref reader, place, rows, found, depth + 1);
        }
    }

    // A copy of the reader: looking on does not move it.
    private static void Look(Utf8JsonReader reader, string name, string place, Found found, int depth)
    {
        var plain = name.Replace("_", "").Replace("-", "");
        if (found.Members.Count < MostMembers && reader.TokenType != JsonTokenType.StartArray)
            found.Members.Add(place);
        if (reader.TokenType == JsonTokenType.Number && Counts().IsMatch(plain) && reader.TryGetInt64(out var total))
            found.Totals.Add(new(place, total));
        var leads = reader.TokenType switch
        {
            JsonTokenType.String => reader.ValueSpan.Length > 0,
            JsonTokenType.True => true,
            JsonTokenType.Number => reader.ValueSpan is not [(byte)'0'],
            JsonTokenType.StartObject => HasMembers(reader),
            _ => false,
        };
        if (leads && LeadsOn().IsMatch(plain))
            found.Hints.Add(OneLine.Of(place));
        if (depth > 0 || found.Error is not null || !Fails().IsMatch(name))
            return;
        if (leads || (reader.TokenType == JsonTokenType.StartArray && HasMembers(reader)))
            found.Error = OneLine.Of(place);
    }

    private static bool HasMembers(Utf8JsonReader reader) =>
        reader.Read() && reader.TokenType is not (JsonTokenType.EndArray or JsonTokenType.EndObject);

    private sealed class Found
    {
        public List<string> Members { get; } = [];

        public List<string> Hints { get; } = [];

        public List<KeyValuePair<string, long>> Totals { get; } = [];

        public string? Error { get; set; }
    }

    [GeneratedRegex(@"^(?:total\w*|count|\w*total|totalcount|recordcount|resultcount|hits|size)$", RegexOptions.IgnoreCase)]
    private static partial Regex Counts();

    // The names that APIs give to what leads to the next page.
    [GeneratedRegex(@"^(?:@?(?:odata\.)?next(?:page|link|url|uri|href|cursor|token|pagetoken|offset|start|key)?|(?:end|next|after|page)?cursor|xnext\w*|continuation(?:token|key)?|hasmore|hasnext(?:page)?|more|resumptiontoken)$", RegexOptions.IgnoreCase)]
    private static partial Regex LeadsOn();

    [GeneratedRegex(@"^(?:errors?|fault|exception|failure)$", RegexOptions.IgnoreCase)]
    private static partial Regex Fails();
}
