using System.CommandLine;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Encryption;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva token get|read|revoke</c>.</summary>
internal sealed class TokenCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string?> _identity = new("IDENTITY")
    {
        Description = "the identity; can be omitted if the job has only one",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Argument<string?> _token = new("TOKEN")
    {
        Description = "the token [stdin, or the identity's token]",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Option<bool> _reveal = new("--reveal") { Description = "print only the token itself, for a pipe" };
    private readonly Option<bool> _revealSteps = new("--reveal-steps")
    {
        Description = "show keys and passwords in the steps of an encrypted sign-in",
    };
    private readonly Option<string?> _job = new("--job") { Description = "the job to compare with" };
    private readonly Option<string?> _as = new("--identity") { Description = "the identity of the job to compare with" };
    private readonly Option<bool> _offline = new("--offline") { Description = "contact no server; the signature is not checked" };

    private readonly Option<string?> _trace = TraceFile.Option();

    public Command Build()
    {
        var get = new Command("get", "Sign in and show the result; the token itself is masked.")
        {
            _common.Job,
            _identity,
            _reveal,
            _revealSteps,
            _trace,
            _common.Value,
            _common.Input,
            _common.InputsFrom,
            _common.EnvFile,
            _common.State,
            _common.Log,
            _common.Format,
        };
        get.Executes(_common, GetAsync);
        var read = new Command("read", "Decode a token and explain it, claim by claim.")
        {
            _token,
            _job,
            _as,
            _offline,
            _common.Value,
            _common.Input,
            _common.InputsFrom,
            _common.EnvFile,
            _common.State,
            _common.Log,
            _common.Format,
        };
        read.Executes(_common, ReadAsync);
        var revoke = new Command("revoke", "Revoke the tokens of an identity, and remove them from the store.")
        {
            _common.Job,
            _identity,
            _common.Value,
            _common.Input,
            _common.InputsFrom,
            _common.EnvFile,
            _common.State,
            _common.Log,
        };
        revoke.Executes(_common, RevokeAsync);
        return new Command("token", "Obtain, explain or revoke tokens.") { get, read, revoke };
    }

    private async Task<Outcome> GetAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        var identity = SignsIn(place.IdentityOf(job, parsed.GetValue(_identity)));
        var steps = new List<PayloadStep>();
        var services = await place.OpenAsync(job, cancel) with { Shown = steps.Add };
        using var trace = TraceFile.Open(parsed.GetValue(_trace), place.Redactor);
        services.Senders.Trace = trace;
        using var source = new TokenSource(identity, services);
        var token = await ShownAsync(parsed, place, steps, () => source.GetFreshAsync(cancel));
        if (parsed.GetValue(_reveal))
        {
            // The one place where a token passes: it was asked for by name.
            await Console.Out.WriteLineAsync(token.Value.Reveal());
            return Outcome.Done;
        }

        var jwt = Jwt.TryRead(token.Value.Reveal());
        TokenView.ShowObtained(place.Terminal.Out, place.Json, identity, token, jwt, CommandContext.Clock.GetUtcNow());
        return Outcome.Done;
    }

    // The steps of an encrypted sign-in are shown above all where it fails.
    private async Task<AccessToken> ShownAsync(
        ParseResult parsed, CommandContext place, List<PayloadStep> steps, Func<Task<AccessToken>> signIn)
    {
        try
        {
            return await signIn();
        }
        finally
        {
            if (steps.Count > 0 && !place.Json && !parsed.GetValue(_reveal))
                PayloadView.Show(place.Terminal, json: false, steps, parsed.GetValue(_revealSteps), "--reveal-steps shows them");
        }
    }

    private async Task<Outcome> ReadAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var job = parsed.GetValue(_job) is { } path ? place.ReadJob(path) : null;
        var identity = job is null ? null : place.IdentityOf(job, parsed.GetValue(_as));
        var services = await place.OpenAsync(job, cancel);
        var text = parsed.GetValue(_token) ?? (Console.IsInputRedirected ? (await Console.In.ReadToEndAsync(cancel)).Trim() : "");
        string? granted = null;
        if (text.Length == 0 && identity is not null)
        {
            using var source = new TokenSource(SignsIn(identity), services);
            var token = await source.GetAsync(cancel);
            (text, granted) = (token.Value.Reveal(), token.Scope);
        }

        if (text.Length == 0)
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "no token was given")
                {
                    NextStep = "pass it as an argument or through a pipe, or name a job with --job",
                });
        place.Redactor.Remember(text);
        text = PastedToken.Read(text);
        place.Redactor.Remember(text);
        if (Jwt.TryRead(text) is not { } jwt)
            return await ReadOpaqueAsync(place, identity, services, text, cancel);

        var (holds, says) = await SignatureAsync(parsed, jwt, identity, services, cancel);
        var reading = TokenReading.Of(jwt, holds, says, identity, granted, TimeZoneInfo.Local, CommandContext.Clock.GetUtcNow());
        TokenView.ShowReading(place.Terminal.Out, place.Json, reading);
        return reading.Holds ? Outcome.Done : Outcome.SignInRefused;
    }

    private async Task<(bool? Holds, string Says)> SignatureAsync(
        ParseResult parsed, Jwt jwt, DeclaredIdentity? identity, SignInServices services, CancellationToken cancel)
    {
        if (parsed.GetValue(_offline))
            return (null, "not checked, as requested");
        var issuer = Uri.TryCreate(jwt.Text("iss"), UriKind.Absolute, out var from) && (
            from.Scheme == "https" || (from.Scheme == "http" && from.IsLoopback))
            ? from
            : null;
        var asked = identity is { Issuer: null, JwksUri: null } or null
            ? new DeclaredIdentity(identity?.Name ?? "token", new Place("--"), Grants.None) { Issuer = issuer, Trust = identity?.Trust }
            : identity;
        if (asked.Issuer is null && asked.JwksUri is null)
            return (null, "not checked: the token names no issuer that can be contacted");
        return await new TokenDesk(asked, services).CheckSignatureAsync(jwt, cancel);
    }

    private static async Task<Outcome> ReadOpaqueAsync(
        CommandContext place, DeclaredIdentity? identity, SignInServices services, string text, CancellationToken cancel)
    {
        var said = identity is { SignsIn: true } ? await new TokenDesk(identity, services).IntrospectAsync(text, cancel) : null;
        if (said is not { } answer)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, "the token is opaque: it is not a JSON Web Token, and only the server knows what it means")
            {
                NextStep = identity is null
                    ? "name a job with --job whose identity has an introspection-endpoint:"
                    : "add introspection-endpoint: to the identity, if the server offers one",
            });
        }

        TokenView.ShowIntrospection(place.Terminal.Out, place.Json, answer, CommandContext.Clock.GetUtcNow());
        return answer.TryGetProperty("active", out var active) && active.ValueKind == JsonValueKind.True
            ? Outcome.Done
            : Outcome.SignInRefused;
    }

    private async Task<Outcome> RevokeAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        var identity = SignsIn(place.IdentityOf(job, parsed.GetValue(_identity)));
        var revoked = await new TokenDesk(identity, await place.OpenAsync(job, cancel)).RevokeAsync(cancel);
        place.Terminal.Out.WriteLineAsIs(
            revoked.Count == 0
                ? $"There are no tokens of identity '{identity.Name}' here; nothing was revoked."
                : $"Revoked and removed: {string.Join(" and ", revoked)}.");
        return Outcome.Done;
    }

    private static DeclaredIdentity SignsIn(DeclaredIdentity identity) =>
        identity.SignsIn
            ? identity
            : throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, $"identity '{identity.Name}' does not obtain tokens (grant {identity.Grant})")
            {
                NextStep = "name an identity that signs in",
            });
}
