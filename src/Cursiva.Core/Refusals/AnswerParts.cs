using System.Text.RegularExpressions;

namespace Cursiva.Core.Refusals;

/// <summary>Parts of an answer that a next step can name: an address, the registered name of a method, a header.</summary>
internal static partial class AnswerParts
{
    /// <summary>Fills the placeholders of a next step.</summary>
    /// <param name="answer">The answer's challenge and body, as they came.</param>
    public static string Fill(string step, string answer) => step
        .Replace("{link}", Link(answer) ?? "the administration page that the answer names")
        .Replace("{method}", MethodOf(answer))
        .Replace("{algorithm}", Algorithm().Matches(answer).LastOrDefault()?.Value ?? "the one that the server's metadata names")
        .Replace("{scheme}", Part(Scheme(), answer) ?? "the one that the answer names")
        .Replace("{header}", Part(Header(), answer) ?? "the header that the API's documentation names")
        .Replace("{scope}", WantedScope(answer) ?? "the scope that this path requires");

    /// <summary>The address that an answer names; null for none.</summary>
    public static string? Link(string answer) => Part(Address(), answer)?.TrimEnd('.', ',', ')', '"', '\'');

    /// <summary>The scope that a challenge names (RFC 6750 section 3); null for none.</summary>
    public static string? WantedScope(string answer) => Part(Scope(), answer);

    /// <summary>The registered names of client authentication methods that an answer has in it.</summary>
    public static IReadOnlyList<string> MethodsIn(string answer) => [.. Method().Matches(answer).Select(match => match.Value).Distinct()];

    // A method that is refused often stands before the one that is wanted.
    private static string MethodOf(string answer)
    {
        if (Method().Matches(answer).LastOrDefault() is { } named)
            return named.Value;
        var words = AnswerWords.Of(answer);
        return words.Contains("assertion") ? "private_key_jwt"
            : words.Contains("body") && !words.Contains("not in the body") ? "client_secret_post"
            : words.Contains("basic") || words.Contains("header") ? "client_secret_basic"
            : words.Contains("secret is missing") || words.Contains("secret is required") ? "client_secret_post"
            : "the one that the server's metadata names";
    }

    private static string? Part(Regex pattern, string answer) =>
        pattern.Match(answer) is { Success: true } match ? match.Groups[match.Groups.Count - 1].Value : null;

    [GeneratedRegex(@"https?://[^\s""<>\\]+")]
    private static partial Regex Address();

    [GeneratedRegex(@"client_secret_(?:basic|post|jwt)|private_key_jwt|(?:self_signed_)?tls_client_auth")]
    private static partial Regex Method();

    [GeneratedRegex(@"\b(?:RS|PS|ES|HS)(?:256|384|512)\b")]
    private static partial Regex Algorithm();

    [GeneratedRegex(@"(?:Authorization: |start with ['""]?|^)(?!Bearer)([A-Za-z][A-Za-z-]{2,20})(?=['"" ]|$)", RegexOptions.IgnoreCase)]
    private static partial Regex Scheme();

    [GeneratedRegex(@"\b(x-[a-z0-9-]*key[a-z0-9-]*|[a-z0-9-]+-key)\b", RegexOptions.IgnoreCase)]
    private static partial Regex Header();

    [GeneratedRegex(@"scope=""?([A-Za-z0-9:/._ -]+)""?")]
    private static partial Regex Scope();
}
