using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>What the authorization server sent back through a person's browser (RFC 6749 section 4.1.2, RFC 9207).</summary>
/// <param name="Code">The authorization code.</param>
internal sealed record PersonAnswer(string Code)
{
    /// <summary>Reads the address that the browser was sent to, or the bare code.</summary>
    /// <param name="text">As it was received or pasted.</param>
    /// <param name="state">The state that was sent along.</param>
    /// <param name="issuer">The issuer that the answer must name, when it names one; null when the job names none.</param>
    /// <param name="mustNameIssuer">Whether the server said that it always names it.</param>
    /// <exception cref="RefusedException">It is an error, belongs to another sign-in, or has no code.</exception>
    public static PersonAnswer Read(string text, string state, Uri? issuer, bool mustNameIssuer)
    {
        // Terminals wrap long lines, and chats put them into quotes.
        var trimmed = string.Concat(text.Where(c => !char.IsWhiteSpace(c))).Trim('"', '\'', '`', '<', '>');
        if (!trimmed.Contains("code=", StringComparison.Ordinal) && !trimmed.Contains("error=", StringComparison.Ordinal))
        {
            if (trimmed.Length == 0 || trimmed.Contains("://", StringComparison.Ordinal) || text.Trim().Contains(' '))
                throw Wrong("the pasted text has no code in it", "paste the whole address that the browser was sent to, or only the code");
            return mustNameIssuer
                ? throw Wrong(
                    "a code does not include its issuer, and this server says that its answers always do",
                    "paste the whole address that the browser was sent to")
                : new PersonAnswer(trimmed);
        }

        var query = Query(trimmed);
        if (query.GetValueOrDefault("error") is { } error)
        {
            var description = query.GetValueOrDefault("error_description");
            throw new RefusedException(
                Catalogue.Refuse(
                    new Facts(Desk.SignIn, Trouble.Status, 0, error) { Words = description ?? "" },
                    "the authorization server refused the sign-in",
                    description is null ? error : $"{error}: {description}"));
        }

        if (query.GetValueOrDefault("state") != state)
            throw Wrong(
                "the answer belongs to another sign-in (its state differs)",
                "use the address that this command printed, and paste the newest answer");
        if (issuer is not null && query.GetValueOrDefault("iss") is { } from && from.TrimEnd('/') != issuer.AbsoluteUri.TrimEnd('/'))
            throw Wrong(
                $"the answer comes from the issuer {from}, not from {issuer}",
                "compare issuer: with the server's documentation; an answer from another server must not be used");
        if (mustNameIssuer && !query.ContainsKey("iss"))
            throw Wrong(
                "the answer names no issuer, and this server says that it always does",
                "sign in again; an answer from another server must not be used");
        return query.GetValueOrDefault("code") is { Length: > 0 } code
            ? new PersonAnswer(code)
            : throw Wrong("the answer has no code in it", "sign in again");
    }

    /// <summary>The state in an address that a browser was sent to; null when it has none.</summary>
    public static string? StateOf(string address) => Query(address).GetValueOrDefault("state");

    private static Dictionary<string, string> Query(string address)
    {
        var query = address[(address.IndexOf('?', StringComparison.Ordinal) + 1)..].Split('#')[0];
        var values = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var part in query.Split('&', StringSplitOptions.RemoveEmptyEntries))
        {
            var pair = part.Split('=', 2);
            values[Decode(pair[0])] = pair.Length > 1 ? Decode(pair[1]) : "";
        }

        return values;
    }

    private static string Decode(string text) => Uri.UnescapeDataString(text.Replace('+', ' '));

    private static RefusedException Wrong(string what, string next) => new(new Refusal(Outcome.SignInRefused, what) { NextStep = next });
}
