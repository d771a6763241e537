using System.Text;

namespace Cursiva.Core.Http;

/// <summary>One challenge of a WWW-Authenticate header (RFC 9110 section 11.6.1).</summary>
/// <param name="Scheme">For example <c>Bearer</c>.</param>
/// <param name="Parameters">By lower-case name; <c>error</c>, <c>error_description</c> and <c>scope</c> for RFC 6750 section 3.</param>
public sealed record Challenge(string Scheme, IReadOnlyDictionary<string, string> Parameters)
{
    private const string Token68 = "";

    /// <summary>Reads a header's value leniently: what is not a challenge is skipped, and nothing throws.</summary>
    public static IReadOnlyList<Challenge> Read(string header)
    {
        var challenges = new List<Challenge>();
        var at = 0;
        Dictionary<string, string>? current = null;
        while (true)
        {
            while (at < header.Length && (char.IsWhiteSpace(header[at]) || header[at] == ','))
                at++;
            if (at >= header.Length)
                return challenges;

            var start = at;
            while (at < header.Length && IsTokenCharacter(header[at]))
                at++;
            if (at == start)
            {
                at++;
                continue;
            }

            var word = header[start..at];
            var afterWord = at;
            while (at < header.Length && header[at] is ' ' or '\t')
                at++;
            if (current is not null && at < header.Length && header[at] == '=')
            {
                at++;
                current[word.ToLowerInvariant()] = Value(header, ref at);
                continue;
            }

            current = new Dictionary<string, string>(StringComparer.Ordinal);
            challenges.Add(new Challenge(word, current));

            // What is left of credentials without names (token68) is of no interest, and is skipped.
            at = afterWord;
            PassToken68(header, ref at, current);
        }
    }

    private static string Value(string header, ref int at)
    {
        while (at < header.Length && header[at] is ' ' or '\t')
            at++;
        if (at >= header.Length || header[at] != '"')
        {
            var start = at;
            while (at < header.Length && header[at] is not (',' or ' ' or '\t'))
                at++;
            return header[start..at];
        }

        var text = new StringBuilder();
        for (at++; at < header.Length && header[at] != '"'; at++)
        {
            if (header[at] == '\\' && at + 1 < header.Length)
                at++;
            text.Append(header[at]);
        }

        at++;
        return text.ToString();
    }

    private static void PassToken68(string header, ref int at, Dictionary<string, string> parameters)
    {
        var probe = at;
        while (probe < header.Length && header[probe] is ' ' or '\t')
            probe++;
        var start = probe;
        while (probe < header.Length && (IsTokenCharacter(header[probe]) || header[probe] == '/'))
            probe++;
        var equals = probe;
        while (equals < header.Length && header[equals] == '=')
            equals++;
        var end = equals;
        while (end < header.Length && header[end] is ' ' or '\t')
            end++;
        var isAlone = end >= header.Length || header[end] == ',';
        if (probe > start && isAlone)
        {
            parameters[Token68] = header[start..equals];
            at = end;
        }
    }

    private static bool IsTokenCharacter(char c) => char.IsAsciiLetterOrDigit(c) || "!#$%&'*+-.^_`|~".Contains(c);
}
