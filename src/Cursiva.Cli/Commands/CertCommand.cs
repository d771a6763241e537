using System.CommandLine;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Files;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva cert create|show</c>: key pairs and self-signed certificates.</summary>
internal sealed class CertCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string> _file = new("FILE") { Description = "a certificate or key file: PKCS #12, PEM or DER" };
    private readonly Option<string> _out = new("--out")
    {
        Description = "the path of the files, without suffixes",
        DefaultValueFactory = _ => "cursiva-cert",
    };
    private readonly Option<string> _subject = new("--subject")
    {
        Description = "the subject of the certificate",
        DefaultValueFactory = _ => "cursiva export",
    };
    private readonly Option<string> _kind = new("--kind") { Description = "the kind of key", DefaultValueFactory = _ => "rsa3072" };
    private readonly Option<int> _days = new("--days") { Description = "how long it is valid, in days", DefaultValueFactory = _ => 365 };
    private readonly Option<string?> _from = new("--from") { Description = "the first day, YYYY-MM-DD [otherwise today]" };
    private readonly Option<string?> _until = new("--until")
    {
        Description = "the last day, YYYY-MM-DD [otherwise --days after the first]",
    };
    private readonly Option<string?> _password = new("--password")
    {
        Description = "where the password is: env:NAME, file:PATH, kept:NAME or systemd:NAME [otherwise asked on a terminal]",
    };
    private readonly Option<bool> _noPassword = new("--no-password")
    {
        Description = "do not encrypt the private key; only the file's mode 0600 protects it",
    };
    private readonly Option<bool> _force = new("--force") { Description = "replace existing files" };

    public CertCommand()
    {
        _kind.AcceptOnlyFromAmong([.. CertificateMaker.Kinds]);
        foreach (var day in new[] { _from, _until })
        {
            day.Validators.Add(result =>
            {
                if (result.Tokens is [var token, ..] && Days.TryParse(token.Value) is null)
                    result.AddError($"{day.Name} '{token.Value}' is not a day; write YYYY-MM-DD");
            });
        }

        _password.Validators.Add(result =>
        {
            // What stands there may be the password itself, and is not repeated.
            if (result.Tokens is [var token, ..] && SecretSource.TryParse(token.Value) is null)
                result.AddError($"--password is not a secret source; {SecretSource.Right}");
        });
    }

    public Command Build()
    {
        var create = new Command("create", "Make a key pair and a self-signed certificate: PKCS #12 and PEM for you, a .crt to hand out.")
        {
            _out, _subject, _kind, _days, _from, _until, _password, _noPassword, _force, _common.State, _common.Format, _common.EnvFile,
        };
        create.Executes(_common, CreateAsync);
        var show = new Command("show", "Show a certificate's thumbprints and when it expires.")
        {
            _file,
            _password,
            _common.State,
            _common.Format,
            _common.EnvFile,
        };
        show.Executes(_common, ShowAsync);
        return new Command("cert", "Key pairs and certificates for signed assertions and TLS.") { create, show };
    }

    private async Task<Outcome> CreateAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var today = new DateTimeOffset(CommandContext.Clock.GetUtcNow().Date, TimeSpan.Zero);
        var from = Days.TryParse(parsed.GetValue(_from)) ?? today;
        var until = Days.TryParse(parsed.GetValue(_until))?.AddDays(1).AddSeconds(-1) ?? from.AddDays(parsed.GetValue(_days));
        if (until <= from)
            throw new RefusedException(
                new Refusal(
                    Outcome.WrongCommandLine,
                    $"the certificate would expire on {until:yyyy-MM-dd}, before it becomes valid on {from:yyyy-MM-dd}")
                {
                    NextStep = "set --until to a later day, or --days to more than 0",
                });

        var prefix = parsed.GetValue(_out)!;
        var password = parsed.GetValue(_noPassword) ? null : await PasswordAsync(parsed, place, ask: true, cancel);
        var facts = new CertificateMaker(new Disk()).Make(
            prefix, parsed.GetValue(_kind)!, parsed.GetValue(_subject)!, from, until, password, parsed.GetValue(_force));
        if (place.Json)
        {
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize(facts, CliJson.Default.CertificateFacts));
            return Outcome.Done;
        }

        CertificateView.Show(place.Terminal.Out, facts);
        CertificateView.ShowFiles(place.Terminal.Out, prefix, password is not null);
        return Outcome.Done;
    }

    private async Task<Outcome> ShowAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var facts = CertificateFacts.Read(parsed.GetValue(_file)!, await PasswordAsync(parsed, place, ask: false, cancel));
        if (place.Json)
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize(facts, CliJson.Default.CertificateFacts));
        else
            CertificateView.Show(place.Terminal.Out, facts);
        return Outcome.Done;
    }

    private async Task<string?> PasswordAsync(ParseResult parsed, CommandContext place, bool ask, CancellationToken cancel)
    {
        if (parsed.GetValue(_password) is { } text)
        {
            var source = SecretSource.TryParse(text) ?? throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "--password is not a secret source") { NextStep = SecretSource.Right });
            return (await (await place.OpenAsync(null, cancel)).Secrets.ReadAsync(source, cancel)).Reveal();
        }

        if (!ask || Console.IsInputRedirected)
            return null;
        var typed = await Prompt.SecretAsync(place.Terminal, "a password for the private key; empty for none", cancel);
        if (typed.Length == 0)
            return null;
        place.Redactor.Remember(typed);
        return await Prompt.SecretAsync(place.Terminal, "the same password again", cancel) == typed
            ? typed
            : throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "the two passwords differ; nothing was written")
                {
                    NextStep = "run the command again",
                });
    }
}
