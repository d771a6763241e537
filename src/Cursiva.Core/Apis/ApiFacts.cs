using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Apis;

/// <summary>Gathers the facts behind an API's refusal: its words, its challenge, and what the token says.</summary>
internal sealed class ApiFacts(Api api, DeclaredIdentity? identity, Redactor redactor)
{
    /// <summary>The refusal of an answer.</summary>
    /// <param name="token">The token that was sent, if one was.</param>
    public Refusal Refuse(Answer answer, string request, AccessToken? token)
    {
        var (trouble, what) = answer.Status switch
        {
            >= 300 and < 400 => (
                Trouble.Redirect,
                $"redirects to {(answer.Headers.Location is { } to ? Quote.Of(ShownAddress.Of(to), redactor) : "nowhere")}"),
            >= 200 and < 300 => (Trouble.Html, "answered with a web page"),
            _ => (Trouble.Status, $"answered with status {answer.Status}"),
        };
        var header = answer.Headers.WwwAuthenticate.Count > 0 ? string.Join(", ", answer.Headers.WwwAuthenticate) : null;
        var error = header is null
            ? null
            : Challenge.Read(header).Select(challenge => challenge.Parameters.GetValueOrDefault("error")).FirstOrDefault(
                code => code is not null);
        var facts = new Facts(Desk.Api, trouble, answer.Status, error)
        {
            Words = redactor.Clean($"{header} {Facts.RedirectWords(api.Base, answer.Headers.Location)} {answer.Body.Text(4000)}"),
            Circumstances = Circumstance(token) | OtherScheme(header, token),
            Details = Details(token),
        };
        var quote = string.Join(
            " | ",
            new[] { Quote.Of(header, redactor), Quote.From(
                answer, redactor), Quote.Of(CorrelationId.Of(answer.Headers), redactor) }.OfType<string>());
        var refusal = Catalogue.Refuse(facts, $"API '{api.Name}' {what}", quote.Length > 0 ? quote : null, request);
        return refusal with { NextStep = StepPlace.Of(refusal.NextStep, identity, api) };
    }

    /// <summary>The refusal of a session key that a fresh sign-in brought.</summary>
    public Refusal KeyRefused(Answer answer, string request) => new(
        Outcome.ApiFailed, $"API '{api.Name}' refused the session key, including that of a fresh sign-in")
    {
        Cause = "the key in the answer is not the one that the API expects, or the refusal is about something else",
        NextStep = "compare session-key: of the identity's encryption: with the API's documentation; and refused-when:",
        Quote = Quote.From(answer, redactor),
        Request = request,
        Status = answer.Status,
    };

    /// <summary>The refusal of a link that leads out of an API.</summary>
    /// <param name="page">The page that led there, when one did.</param>
    public static Refusal Leaves(Api api, Uri address, Uri? page) => new(
        Outcome.ApiFailed, $"a link leaves the API '{api.Name}': {ShownAddress.Of(address)}")
    {
        Cause = $"credentials are sent only to {ApiAddress.OriginOf(api.Base)}, which they were declared for",
        NextStep = "if the API really moved, change base: in the job file; if it may link there, add the origin to also-origins:",
        Request = page is null ? null : $"GET {ShownAddress.Of(page)}",
    };

    /// <summary>The refusal of a request that must not be sent twice.</summary>
    public static Refusal NotRepeated(Refusal refusal) => refusal with
    {
        MayHaveArrived = true,
        Cause = "the request may have arrived although its answer did not; it was not repeated, since that could do its work twice",
        NextStep = "check in the API whether it was done; the next start of the job sends it again",
    };

    // RFC 9110 section 11.6.1: the challenge names what the API takes.
    private static Circumstances OtherScheme(string? header, AccessToken? token)
    {
        if (header is null
            || token?.Headers.FirstOrDefault(
                sent => sent.Key.Equals("Authorization", StringComparison.OrdinalIgnoreCase)) is not { Key: not null } authorization)
            return Circumstances.None;
        var scheme = authorization.Value.Reveal().Split(' ')[0];
        var wanted = Challenge.Read(header).Select(challenge => challenge.Scheme).ToList();
        return wanted.Count > 0 && !wanted.Contains(scheme, StringComparer.OrdinalIgnoreCase)
            ? Circumstances.OtherScheme
            : Circumstances.None;
    }

    private Circumstances Circumstance(AccessToken? token)
    {
        if (token is null)
            return Circumstances.Anonymous;
        if (identity?.Grant == Grants.Header)
            return Circumstances.FixedKey;
        if (Jwt.TryRead(token.Value.Reveal()) is not { } jwt)
            return Circumstances.None;
        var found = TokenNature.Of(jwt) switch
        {
            true => Circumstances.PersonsToken,
            false => Circumstances.ApplicationsToken,
            null => Circumstances.None,
        };
        if (identity is null)
            return found;
        var expectation = TokenExpectation.Compare(identity, jwt, token.Scope);
        if (expectation.Any(line => line is { Claim: "aud", Holds: false }))
            found |= Circumstances.OtherAudience;
        if (expectation.Any(line => line is { IsPermission: true, Holds: false }))
            found |= Circumstances.PermissionMissing;
        return found;
    }

    private List<string> Details(AccessToken? token) =>
        token is not null && identity is not null && Jwt.TryRead(token.Value.Reveal()) is { } jwt
            ? [.. TokenExpectation.Compare(identity, jwt, token.Scope)
                .Where(line => !line.Holds && (line.IsPermission || line.Claim == "aud"))
                .Select(line => line.Says)]
            : [];
}
