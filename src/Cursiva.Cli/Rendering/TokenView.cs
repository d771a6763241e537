using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells what a token is.</summary>
internal static class TokenView
{
    private const string Mask = "(masked; --reveal prints it)";

    public static void ShowObtained(
        IAnsiConsole console, bool json, DeclaredIdentity identity, AccessToken token, Jwt? jwt, DateTimeOffset now)
    {
        var until = now + token.Lifetime;
        var permissions = jwt is null
            ? (token.Scope ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries)
            : TokenExpectation.PermissionsOf(jwt, token.Scope);
        if (json)
        {
            console.WriteLinesAsIs(new JsonObject
            {
                ["identity"] = identity.Name,
                ["kind"] = jwt is null ? "opaque" : "jwt",
                ["header"] = identity.Presentation.Header,
                ["lifetime-seconds"] = token.Lifetime.TotalSeconds,
                ["permissions"] = new JsonArray([.. permissions.Select(name => JsonValue.Create(name))]),
            }.ToJsonString());
            return;
        }

        console.Say($"[green]Signed in[/] as identity '{identity.Name}' with {identity.Grant}.");
        var pairs = new Pairs();
        pairs.Add("token", $"{(jwt is null ? "opaque" : "JSON Web Token")}, {token.Value.Reveal().Length} characters {Mask}");
        pairs.Add(
            "valid",
            string.Create(
                CultureInfo.InvariantCulture,
                $"for {Durations.ForPeople(token.Lifetime)}, until {TimeZoneInfo.ConvertTime(until, TimeZoneInfo.Local):yyyy-MM-dd HH:mm:ss zzz}"));
        pairs.Add("sent as", string.Join(", ", token.Headers.Select(header => header.Key)));
        if (permissions.Count > 0)
            pairs.Add("may do", string.Join(' ', permissions));
        pairs.Write(console);
    }

    public static void ShowReading(IAnsiConsole console, bool json, TokenReading reading)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize(reading, CliJson.Default.TokenReading));
            return;
        }

        var table = Tables.Plain("claim", "value", "meaning");
        foreach (var line in reading.Lines)
            table.AddRow(
                Shown.Text(line.Part == "header" ? $"({line.Claim})" : line.Claim),
                Shown.Text(line.Value),
                Shown.Text(line.Meaning, new Style(Color.Grey)));
        console.Write(table);
        console.WriteLine();
        var pairs = new Pairs();
        pairs.Add("belongs", reading.Belongs);
        pairs.Add("time", reading.Validity);
        pairs.Add("signature", reading.Signature);
        pairs.Write(console);
        if (reading.Compared.Count > 0)
            ShowCompared(console, reading);
    }

    public static void ShowIntrospection(IAnsiConsole console, bool json, JsonElement answer, DateTimeOffset now)
    {
        if (json)
        {
            console.WriteLinesAsIs(answer.GetRawText());
            return;
        }

        console.MarkupLine("The token is opaque; this is what the server says about it:");
        var table = Tables.Plain("field", "value", "meaning");
        foreach (var field in answer.EnumerateObject())
        {
            var value = field.Value.ValueKind == JsonValueKind.String ? field.Value.GetString()! : field.Value.GetRawText();
            if (ClaimWords.IsTime(field.Name) && field.Value.TryGetInt64(out var seconds))
            {
                var time = DateTimeOffset.FromUnixTimeSeconds(seconds);
                value = string.Create(
                    CultureInfo.InvariantCulture,
                    $"{TimeZoneInfo.ConvertTime(time, TimeZoneInfo.Local):yyyy-MM-dd HH:mm:ss zzz}, {(time > now ? "in " + Durations.ForPeople(time - now) : Durations.ForPeople(now - time) + " ago")}");
            }

            table.AddRow(
                Shown.Text(field.Name),
                Shown.Text(value),
                Shown.Text(field.Name == "active" ? "whether it is valid now" : ClaimWords.Of(field.Name), new Style(Color.Grey)));
        }

        console.Write(table);
    }

    private static void ShowCompared(IAnsiConsole console, TokenReading reading)
    {
        console.MarkupLine("\n[bold]Compared with the job[/]");
        foreach (var line in reading.Compared)
        {
            console.Write(Shown.Text(line.Holds ? "  ok      " : "  failed  ", new Style(line.Holds ? Color.Green : Color.Maroon)));
            console.Say($"{line.Says}");
            if (line.NextStep is { } next)
                console.Write(new Padder(Shown.Text(next), new Padding(10, 0, 0, 0)));
        }

        if (reading.Beyond.Count > 0)
            console.Say($"  more   beyond what the job declares: {string.Join(", ", reading.Beyond)}");
    }
}
