using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva sign-in JOB IDENTITY</c>: once, by a person.</summary>
internal sealed class SignInCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string?> _identity = new("IDENTITY")
    {
        Description = "the identity to sign in as",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Option<bool> _paste = new("--paste")
    {
        Description = "paste the address that the browser was sent to, or the code, instead of listening for it",
    };
    private readonly Option<bool> _browser = new("--browser") { Description = "open the address in this machine's browser" };
    private readonly Option<bool> _device = new("--device") { Description = "sign in with a code to enter on another device" };

    private readonly Option<string?> _trace = TraceFile.Option();

    public Command Build()
    {
        var command = new Command("sign-in", "Sign in once as a person, and store the refresh token for the job.")
        {
            _common.Job, _identity, _paste, _browser, _device, _trace, _common.Value, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Log,
        };
        command.Executes(_common, ExecuteAsync);
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        var identity = place.IdentityOf(job, parsed.GetValue(_identity));
        if (!identity.Refreshes)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, $"identity '{identity.Name}' signs in without a person, with {identity.Grant}")
            {
                NextStep = $"for a person's sign-in, set its grant: to {Grants.AuthorizationCode} or {Grants.DeviceCode}",
            });
        }

        var console = place.Terminal.Error;
        var services = await place.OpenAsync(job, cancel);
        using var trace = TraceFile.Open(parsed.GetValue(_trace), place.Redactor);
        services.Senders.Trace = trace;
        var signIn = new PersonSignIn(identity, services, new Person(place.Terminal, parsed.GetValue(_browser)));
        var byDevice = parsed.GetValue(_device)
            || identity.Grant == Grants.DeviceCode
            || identity is { Issuer: null, AuthorizationEndpoint: null, DeviceAuthorizationEndpoint: not null };
        var result = byDevice ? await signIn.ByDeviceAsync(cancel) : await signIn.ByCodeAsync(parsed.GetValue(_paste), cancel);
        console.Say($"[green]Signed in[/] as identity '{identity.Name}'.");
        if (result.Granted.Count > 0)
            console.Say($"Granted: {string.Join(' ', result.Granted)}");
        if (result.Missing.Count > 0)
            console.Say($"[yellow]Note:[/] requested and not granted: {string.Join(' ', result.Missing)}");
        if (result.KeptAs is null)
        {
            var asksOffline = identity.Scope.Contains("offline_access") || identity.AuthorizationParameters.Count > 0;
            var until = result.Until!.Value.ToLocalTime();
            place.Terminal.Out.WriteLineAsIs(
                $"The server issued no refresh token. The access token is stored, and runs of the job use it until {until:yyyy-MM-dd HH:mm:ss zzz}; after that, somebody has to sign in again.");
            var advice = asksOffline
                ? "ask for refresh tokens to be allowed for the client, or add authorization-parameters: { prompt: consent }, since some servers issue one only with the first consent"
                : "add offline_access to scope:, or the parameter in the server's documentation to authorization-parameters:, and sign in again";
            console.Say($"[yellow]Note:[/] for runs without a person {advice}");
            return Outcome.Done;
        }

        place.Terminal.Out.WriteLineAsIs($"The refresh token is stored as '{result.KeptAs}'. Runs of the job use it from now on.");
        return Outcome.Done;
    }
}
