using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>Makes of a token endpoint's answer the token as the API is shown it.</summary>
internal sealed class TokenMaker(DeclaredIdentity identity, SecretSources secrets, Redactor redactor, TimeProvider clock)
{
    private static readonly TimeSpan s_assumedLifetime = TimeSpan.FromMinutes(5);
    private static readonly TimeSpan s_largestMargin = TimeSpan.FromMinutes(2);

    private Presentation Presentation => identity.Presentation;

    /// <summary>What is worth keeping of an answer.</summary>
    /// <exception cref="RefusedException">The answer has no token, or lacks what a header needs.</exception>
    public TokenFacts Read(TokenReply reply)
    {
        var answer = reply.Good();
        if (answer.AccessToken(Presentation) is not { Length: > 0 } value)
        {
            var place = Presentation.TokenAt?.Text ?? "/access_token";
            var quote = answer.ErrorWords is { } words
                ? Http.Quote.Of(words, redactor)
                : $"members: {string.Join(", ", answer.MemberNames)}";
            throw new RefusedException(
                SignInSealing.Hinted(
                    Catalogue.Refuse(
                        new Facts(Desk.SignIn, Trouble.NotUnderstood, 200),
                        $"sign-in of identity '{identity.Name}' failed: the token endpoint's answer has no token at {place}",
                        quote,
                        reply.Request),
                    identity));
        }

        redactor.Remember(value);
        if (answer.RefreshToken is { Length: > 0 } refresh)
            redactor.Remember(refresh);
        if (answer.IdToken is { Length: > 0 } id)
            redactor.Remember(id);
        var lifetime = LifetimeOf(answer, reply) ?? answer.ExpiresIn ?? Jwt.TryRead(value)?.Lifetime ?? s_assumedLifetime;
        var margin = lifetime / 10 < s_largestMargin ? lifetime / 10 : s_largestMargin;
        return new TokenFacts(value, answer.TokenType, reply.AskedAt + lifetime - margin, lifetime, answer.Scope, FieldsOf(answer))
        {
            SessionKey = reply.SessionKey,
        };
    }

    // Whichever ends first, token or session key, ends both.
    private TimeSpan? LifetimeOf(TokenAnswer answer, TokenReply reply)
    {
        var end = identity.TokenEndsAt is { } place ? SignInSealing.TimeAt(answer, place, clock.GetUtcNow()) : null;
        if (identity.TokenEndsAt is { } missing && end is null)
        {
            throw new RefusedException(new Refusal(
                Outcome.SignInRefused,
                $"sign-in of identity '{identity.Name}' failed: the token endpoint's answer has no time at {missing.Text}, where token-ends-at: looks")
            {
                Quote = $"members: {string.Join(", ", answer.MemberNames)}",
                NextStep = "compare token-ends-at: with the answer",
            });
        }

        var token = end ?? reply.AskedAt + (answer.ExpiresIn ?? Jwt.TryRead(answer.AccessToken(Presentation)!)?.Lifetime);
        var session = reply.SessionKey?.Ends;
        return (token is null || session < token ? session ?? token : token) - reply.AskedAt;
    }

    /// <summary>The token with its headers.</summary>
    /// <exception cref="RefusedException">A secret that goes beside the token is not there, or a header would be broken.</exception>
    public async Task<AccessToken> MakeAsync(TokenFacts facts, CancellationToken cancel)
    {
        var type = facts.Type is null || facts.Type.Equals("bearer", StringComparison.OrdinalIgnoreCase) ? "Bearer" : facts.Type;
        var scheme = Presentation.Scheme ?? type;
        List<KeyValuePair<string, SecretText>> headers = [Header(
            Presentation.Header, scheme.Length > 0 ? $"{scheme} {facts.Value}" : facts.Value)];
        foreach (var (name, value) in Presentation.Beside)
        {
            var filled = value.TryFill(placeholder => facts.Fields.GetValueOrDefault(placeholder)) ?? throw new InvalidOperationException(
                $"{value.Written} has no value");
            headers.Add(Header(name, (await secrets.ReadAsync(filled, cancel)).Reveal()));
        }

        return new AccessToken(redactor.Remember(facts.Value), headers, facts.RenewAt)
        {
            Scope = facts.Scope,
            Lifetime = facts.Lifetime,
            Fields = facts.Fields,
            SessionKey = Remembered(facts.SessionKey),
        };
    }

    private SessionKey? Remembered(SessionKey? key)
    {
        if (key is not null)
        {
            redactor.Remember(Convert.ToBase64String(key.Bytes));
            redactor.Remember(Base64UrlText.Write(key.Bytes));
        }

        return key;
    }

    private Dictionary<string, string> FieldsOf(TokenAnswer answer)
    {
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var name in Presentation.Beside.Values.SelectMany(template => template.Names).Concat(identity.TokenFields).Distinct())
        {
            var pointer = JsonPointer.TryParse(name["token".Length..]);
            fields[name] = (pointer is null ? null : answer.At(pointer))
                ?? throw new RefusedException(new Refusal(
                    Outcome.SignInRefused,
                    $"the token endpoint's answer for identity '{identity.Name}' has nothing at {name["token".Length..]}, which {(identity.TokenFields.Contains(name) ? "an API or a pull of the job" : "a header of headers-beside:")} needs")
                {
                    Quote = $"members: {string.Join(", ", answer.MemberNames)}",
                    NextStep = "compare the placeholder with the answer's fields",
                });
        }

        return fields;
    }

    // A line break in a header would begin another one; the value is not repeated, since it may be the secret.
    private KeyValuePair<string, SecretText> Header(string name, string value)
    {
        var clean = value.Trim();
        if (clean.Length != value.Length || Confines.Header(value) is not null)
        {
            throw new RefusedException(new Refusal(
                Outcome.SignInRefused,
                $"the header {name} of identity '{identity.Name}' would contain {WhiteSpace.Find(value) ?? Confines.Header(value)}")
            {
                Cause = "a secret or id has white space or a line break, probably copied along",
                NextStep = StepPlace.Of(
                    "store the secret again without it: cursiva secret keep NAME, or printf '%s' instead of echo", identity, null),
            });
        }

        return new(name, redactor.Remember(clean));
    }
}
