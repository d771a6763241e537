using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace Cursiva.Core.Refusals;

/// <summary>
/// What an answer says, as plain words: the values of JSON without the names of its members, the text of XML and web pages, codes such as
/// <c>AccountLocked</c> and <c>account_locked</c> as the words they are made of. Lower case, sentences parted by a full stop of its own.
/// </summary>
public static partial class AnswerWords
{
    private const int Longest = 8000;
    private const int Deepest = 8;

    // Members that name the request or the server's own records: their words say nothing of the cause.
    private static readonly HashSet<string> s_records = new(StringComparer.OrdinalIgnoreCase)
    {
        "path", "instance", "url", "uri", "href", "timestamp", "trace", "traceid", "trace_id", "requestid", "request_id", "correlationid", "correlation_id",
        "documentation", "documentation_url", "help", "error_uri", "id", "self", "method", "host",
    };

    /// <summary>The words of an answer.</summary>
    /// <param name="answer">Its challenge and body, as they came.</param>
    public static string Of(string answer)
    {
        if (answer.Length > Longest)
            answer = answer[..Longest];
        var text = new StringBuilder();
        Add(text, answer, 0);
        return Plain(text.ToString());
    }

    private static void Add(StringBuilder text, string part, int depth)
    {
        var json = part.AsSpan().IndexOfAny('{', '[');
        if (json >= 0 && depth < Deepest && TryJson(text, part[json..], depth))
        {
            text.Insert(0, part[..json] + " . ");
            return;
        }

        text.Append(part.Contains('<') ? Markup().Replace(Unseen().Replace(part, " . "), " . ") : part).Append(" . ");
    }

    private static bool TryJson(StringBuilder text, string json, int depth)
    {
        try
        {
            using var document = JsonDocument.Parse(json);
            Add(text, document.RootElement, depth);
            return true;
        }
        catch (JsonException)
        {
            return false;
        }
    }

    private static void Add(StringBuilder text, JsonElement value, int depth)
    {
        switch (value.ValueKind)
        {
            case JsonValueKind.Object:
                foreach (var member in value.EnumerateObject().Where(member => !s_records.Contains(member.Name)))
                    Add(text, member.Value, depth + 1);
                break;
            case JsonValueKind.Array:
                foreach (var item in value.EnumerateArray())
                    Add(text, item, depth + 1);
                break;
            case JsonValueKind.String:
                Add(text, value.GetString()!, depth + 1);
                break;
        }
    }

    private static string Plain(string text)
    {
        text = Humps().Replace(text, "$1 $2").ToLowerInvariant();
        text = Not().Replace(text.Replace('’', '\''), " not").Replace("cannot", "can not");
        text = Ends().Replace(text, " . ");
        text = Signs().Replace(text, " ");
        return Spaces().Replace(text, " ");
    }

    [GeneratedRegex(@"<(script|style)\b.*?</\1>", RegexOptions.Singleline | RegexOptions.IgnoreCase)]
    private static partial Regex Unseen();

    [GeneratedRegex("<[^>]*>")]
    private static partial Regex Markup();

    [GeneratedRegex("([a-z])([A-Z][a-z])")]
    private static partial Regex Humps();

    [GeneratedRegex("n't\\b")]
    private static partial Regex Not();

    // A full stop inside a name or a number ends no sentence.
    [GeneratedRegex(@"[.!?](?=\s|$)|[;|\r\n]")]
    private static partial Regex Ends();

    [GeneratedRegex(@"(?<=\S)\.(?=\S)|[^\p{L}\p{Nd}. ]")]
    private static partial Regex Signs();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();
}
