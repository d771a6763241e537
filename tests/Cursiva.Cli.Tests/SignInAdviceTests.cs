using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>The commands that a refused sign-in advises are whole, and do what they promise.</summary>
public sealed class SignInAdviceTests
{
    [Fact]
    public async Task A_key_that_is_wrong_is_kept_again_under_its_name()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "api-key");
        using var job = new SignInJob(cloud.Address, "grant: header\nheader: X-Api-Key\nsecret: kept:exchange-key");
        (await job.DoAsync(["secret", "keep", "exchange-key"], input: "yesterdays-key")).ShouldEndWith(0);
        var refused = (await job.RunAsync()).ShouldEndWith(5);
        (await DoAsync(job, CommandIn(refused.Error, "cursiva secret keep exchange-key"), Job.Secret)).ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_certificate_that_is_not_registered_is_shown_from_where_the_job_has_it()
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: none");
        await job.CertificateAsync("app", "--kind", "p256", "--password", "env:CLIENT_SECRET");
        var other = await job.CertificateAsync("other", "--kind", "p256");
        using var cloud = await StandIn.StartAsync("--client-certificate", other);
        job.Write(cloud.Address, "grant: client_credentials\ntoken-endpoint: '{cloud}/oauth2/token'\nclient-id: brackwater-demo\nprivate-key: { private: file:app.p12, password: env:CLIENT_SECRET }");
        var refused = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4);
        (await DoAsync(job, CommandIn(refused.Error, "cursiva cert show app.p12 --password env:CLIENT_SECRET"))).ShouldEndWith(0).Out.ShouldContain("SHA-256");
    }

    [Fact]
    public async Task A_certificate_that_has_ended_is_made_anew_by_the_command()
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: client_credentials\ntoken-endpoint: '{cloud}/oauth2/token'\nclient-id: brackwater-demo\nprivate-key: { private: file:old.p12 }");
        await job.CertificateAsync("old", "--kind", "p256", "--from", "2020-01-01", "--until", "2021-01-31");
        var ended = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4);
        (await DoAsync(job, CommandIn(ended.Error, "cursiva cert create"))).ShouldEndWith(0).Out.ShouldContain("cursiva-cert.p12");
    }

    [Fact]
    public async Task Two_pages_that_repeat_are_seen_by_the_call_that_the_message_gives()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "900");
        using var job = new Job(cloud.Address, "a: { get: /odd/same-link, rows: /items, paging: { next-link: /links/next } }");
        var endless = (await job.RunAsync()).ShouldEndWith(5);
        endless.Error.ShouldContain("would never end");
        var call = CommandIn(endless.Error, "cursiva call");
        var shown = (await App.RunAsync("bash", ["-c", Shell + call], job.Folder, [.. job.Environment, ("CURSIVA", App.Cursiva)])).ShouldEndWith(0);
        shown.Out.ShouldContain("\"items\"");
    }

    private const string Shell = "cursiva() { \"$CURSIVA\" \"$@\"; }; ";

    private static string CommandIn(string message, string command)
    {
        var match = Regex.Match(message, Regex.Escape(command) + @"[^;,)\n]*");
        match.Success.ShouldBeTrue(message);
        return match.Value.Trim();
    }

    private static Task<Ended> DoAsync(SignInJob job, string command, string? input = null) =>
        App.RunAsync("bash", ["-c", Shell + command], job.Folder, [.. job.Environment, ("CURSIVA", App.Cursiva)], input: input);
}
