using System.Globalization;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>Gathers the facts behind a refused sign-in: the server's words, and what can be seen of our own side.</summary>
internal sealed class SignInFacts(DeclaredIdentity identity, SignInServices services)
{
    private static readonly TimeSpan s_clocksDiffer = TimeSpan.FromMinutes(1);

    /// <summary>How the client proved itself.</summary>
    public IReadOnlyList<string> Methods { get; set; } = identity.ClientAuth;

    /// <summary>The refusal of an answer.</summary>
    /// <param name="sent">What was sent.</param>
    public Refusal Refuse(Answer answer, TokenAnswer read, Request request, int attempt, SecretText? secret, Circumstances sent)
    {
        var (trouble, what) = answer.Status switch
        {
            >= 300 and < 400 => (
                Trouble.Redirect,
                $"redirects to {(answer.Headers.Location is { } to ? Quote.Of(ShownAddress.Of(to), services.Redactor) : "nowhere")}"),
            >= 200 and < 300 when read.Error is not null => (Trouble.Status, $"answered with an error and status {answer.Status}"),
            >= 200 and < 300 when answer.IsHtml => (Trouble.Html, "answered with a web page"),
            >= 200 and < 300 => (Trouble.NotUnderstood, "sent an answer that is not JSON"),
            _ => (Trouble.Status, $"answered with status {answer.Status}"),
        };
        if (RetryAfter.Read(answer.Headers, services.Clock.GetUtcNow()) is { } pause && pause > TimeSpan.Zero)
            what += $" and asks for a pause of {Durations.ForPeople(pause)}";
        var challenge = string.Join(", ", answer.Headers.WwwAuthenticate);
        var words = services.Redactor.Clean(
            $"{challenge} {Facts.RedirectWords(request.Uri, answer.Headers.Location)} {answer.Body.Text(4000)}");
        var (circumstances, details) = OurSide(answer, secret);
        if (AnswerParts.MethodsIn(words) is { Count: > 0 } named && !named.Intersect(Methods).Any())
            circumstances |= Circumstances.OtherProof;
        var facts = new Facts(Desk.SignIn, trouble, answer.Status, read.Error)
        {
            Words = words,
            Circumstances = circumstances | sent,
            Details = details,
        };
        var refusal = Placed(
            Catalogue.Refuse(facts, What(what), QuoteOf(answer, read), $"{request}, status {answer.Status}, attempt {attempt}"));
        return RetryAfter.Read(answer.Headers, services.Clock.GetUtcNow()) is { } wait && wait > TimeSpan.Zero
            ? refusal with
            {
                NextStep = string.Create(
                    CultureInfo.InvariantCulture,
                    $"run again after {services.Clock.GetUtcNow() + wait:yyyy-MM-dd HH:mm}Z; {refusal.NextStep}"),
            }
            : refusal;
    }

    /// <summary>The refusal of a request that got no complete answer.</summary>
    public Refusal Refuse(TransportException error, Request request, int attempt)
    {
        var proxy = new[] { "HTTPS_PROXY", "https_proxy", "ALL_PROXY", "all_proxy" }.Any(
            name => !string.IsNullOrEmpty(services.Environment(name)));
        var facts = new Facts(Desk.SignIn, error.Trouble)
        {
            Words = error.ToString(),
            Circumstances = proxy ? Circumstances.Proxied : Circumstances.None,
        };
        return Placed(Catalogue.Refuse(facts, What($"gave no answer: {error.Message}"), null, $"{request}, attempt {attempt}"));
    }

    private Refusal Placed(Refusal refusal) => refusal with { NextStep = StepPlace.Of(refusal.NextStep, identity, null) };

    private string What(string what) => $"sign-in of identity '{identity.Name}' failed: the token endpoint {what}";

    private (Circumstances Circumstances, List<string> Details) OurSide(Answer answer, SecretText? secret)
    {
        var found = Circumstances.None;
        var details = new List<string>();
        if (WhiteSpace.Find(identity.ClientId) is { } inId)
        {
            found |= Circumstances.WhiteSpaceInId;
            details.Add(inId);
        }

        if (secret is not null && WhiteSpace.Find(secret.Reveal()) is { } inSecret)
        {
            found |= Circumstances.WhiteSpaceInSecret;
            details.Add(inSecret);
        }

        if (secret is not null && Guid.TryParseExact(secret.Reveal(), "D", out _))
            found |= Circumstances.SecretLooksLikeId;
        var now = services.Clock.GetUtcNow();
        if (answer.Headers.Date is { } date && (date - now).Duration() > s_clocksDiffer)
        {
            found |= Circumstances.ClocksDiffer;
            details.Add(
                $"the server's clock is {Durations.ForPeople((date - now).Duration())} {(date > now ? "ahead of" : "behind")} this machine's");
        }

        return (found, details);
    }

    /// <summary>What a token endpoint said, as far as it may be quoted; null for nothing.</summary>
    // Only a well-formed error (RFC 6749 section 5.2) is quoted: anything else may have tokens in it that nobody recognises.
    public string? QuoteOf(Answer answer, TokenAnswer read)
    {
        if (!read.IsError && read.ErrorWords is { } words && read.AccessToken(identity.Presentation) is null)
            return Quote.Of(words, services.Redactor);
        if (!read.IsError)
            return Quote.Of(
                string.Join(" | ", new[] { read.Describe(answer), Correlation(answer, read) }.OfType<string>()), services.Redactor);
        var parts = new[]
        {
            read.ErrorDescription is null ? read.Error : $"{read.Error}: {read.ErrorDescription}",
            read.Text("error_uri"),
            Correlation(answer, read),
        };
        return Quote.Of(string.Join(" | ", parts.OfType<string>()), services.Redactor);
    }

    private static string? Correlation(Answer answer, TokenAnswer read)
    {
        if ((read.Text("correlation_id") ?? read.Text("trace_id")) is { Length: <= 64 } id
            && id.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.' or ':'))
            return "correlation id " + id;
        return CorrelationId.Of(answer.Headers);
    }
}
