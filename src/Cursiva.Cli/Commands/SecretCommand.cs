using System.CommandLine;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Spectre.Console;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva secret keep|list|drop</c>: the encrypted store.</summary>
internal sealed class SecretCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string> _name = new("NAME") { Description = "the name that jobs use as kept:NAME" };
    private readonly Option<string?> _expires = new("--expires")
    {
        Description = "the day on which the secret expires, YYYY-MM-DD; check --live counts the days",
    };
    private readonly Option<bool> _asIs = new("--as-is") { Description = "keep white space around the secret" };

    public SecretCommand() => _expires.Validators.Add(result =>
    {
        if (result.Tokens is [var token, ..] && Days.TryParse(token.Value) is null)
            result.AddError($"--expires '{token.Value}' is not a day; write YYYY-MM-DD");
    });

    public Command Build()
    {
        var keep = new Command("keep", "Store a secret, typed without being shown or read from stdin; never an argument.")
        {
            _name,
            _expires,
            _asIs,
            _common.State,
        };
        keep.Executes(_common, KeepAsync);
        var list = new Command("list", "List the names, ages and days to expiry; never values.") { _common.State, _common.Format };
        list.Executes(_common, ListAsync);
        var drop = new Command("remove", "Remove a secret.") { _name, _common.State };
        drop.Executes(_common, DropAsync);
        return new Command("secret", "Cursiva's encrypted store.") { keep, list, drop };
    }

    private async Task<Outcome> KeepAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var name = parsed.GetValue(_name)!;
        var services = await place.OpenAsync(null, cancel);
        var secret = await Prompt.SecretAsync(place.Terminal, $"the secret to store as '{name}'", cancel);
        if (!parsed.GetValue(_asIs) && secret.Trim().Length != secret.Length)
        {
            place.Terminal.Error.Say(
                $"[yellow]Note:[/] {WhiteSpace.Find(secret)} was removed, since it is usually copied along; --as-is keeps it");
            secret = secret.Trim();
        }

        if (secret.Length == 0)
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "the secret is empty; nothing was stored")
                {
                    NextStep = "type it, or pipe it in: printf '%s' ... | cursiva secret keep NAME",
                });
        place.Redactor.Remember(secret);
        if (WhiteSpace.Find(secret) is { } inside && !secret.Contains("-----BEGIN", StringComparison.Ordinal))
            place.Terminal.Error.Say($"[yellow]Note:[/] the secret has {inside}; if that is not intended, store it again");
        await services.Store.KeepAsync(name, secret, Days.TryParse(parsed.GetValue(_expires)), cancel);
        place.Terminal.Out.WriteLineAsIs($"Kept '{name}' ({secret.Length} characters). Jobs use it as kept:{name}.");
        return Outcome.Done;
    }

    private async Task<Outcome> ListAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var secrets = await (await place.OpenAsync(null, cancel)).Store.ListAsync(cancel);
        if (place.Json)
        {
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize([.. secrets], CliJson.Default.KeptSecretArray));
            return Outcome.Done;
        }

        if (secrets.Count == 0)
        {
            place.Terminal.Out.WriteLineAsIs("The store is empty. Store a secret: cursiva secret keep NAME.");
            return Outcome.Done;
        }

        var now = CommandContext.Clock.GetUtcNow();
        var table = Tables.Plain("name", "kept", "ends");
        foreach (var secret in secrets)
            table.AddRow(
                Shown.Text(secret.Name),
                Shown.Text((int)(now - secret.KeptAt).TotalDays is > 0 and var days ? $"{days} days ago" : "today"),
                Shown.Text(
                    Ends(secret, now),
                    secret.Expires is { } end && end - now < TimeSpan.FromDays(30) ? new Style(Color.Olive) : Style.Plain));
        place.Terminal.Out.Write(table);
        return Outcome.Done;
    }

    private async Task<Outcome> DropAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var name = parsed.GetValue(_name)!;
        if (!await (await place.OpenAsync(null, cancel)).Store.DropAsync(name, cancel))
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"there is no secret named '{name}'")
                {
                    NextStep = "cursiva secret list shows the names",
                });
        place.Terminal.Out.WriteLineAsIs($"Dropped '{name}'.");
        return Outcome.Done;
    }

    private static string Ends(KeptSecret secret, DateTimeOffset now) => secret.Expires switch
    {
        null => "unknown",
        { } end when end <= now => $"expired on {end:yyyy-MM-dd}",
        { } end => $"in {(int)(end - now).TotalDays} days, on {end:yyyy-MM-dd}",
    };
}
