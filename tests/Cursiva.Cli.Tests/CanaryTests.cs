using System.Text;

namespace Cursiva.Cli.Tests;

/// <summary>No secret and no token appears anywhere (promise 3).</summary>
public sealed class CanaryTests
{
    [Theory]
    [InlineData("")]
    [InlineData("--fail-every 2")]
    [InlineData("--token-uses 1")]
    [InlineData("--client-secret other")]
    public async Task No_secret_and_no_token_is_left_anywhere(string quirk)
    {
        string[] arguments = ["--rows", "200", .. quirk.Contains("--client-secret") ? [] : new[] { "--client-secret", Job.Secret }, .. quirk.Split(' ', StringSplitOptions.RemoveEmptyEntries)];
        using var cloud = await StandIn.StartAsync(arguments);
        foreach (var way in new[] { "client_secret_basic", "client_secret_post" })
        {
            using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All, identity: $"client-auth: {way}");
            foreach (var log in new[] { "plain", "json", "debug" })
                Search(job, await job.RunAsync("--log", log));
            Search(job, await job.DoAsync(["check", job.Path]));

            // A secret pasted where it does not belong is not repeated either.
            job.Yaml = job.Yaml.Replace("env:BRACKWATER_SECRET", $"'{Job.Secret}'");
            job.Save();
            var pasted = (await job.DoAsync(["check", job.Path])).ShouldEndWith(3);
            pasted.All.ShouldNotContain(Job.Secret);
        }
    }

    /// <summary>Every command and many failures, with every kind of secret there is.</summary>
    [Theory]
    [InlineData("")]
    [InlineData("--quirk opaque")]
    [InlineData("--client-secret other")]
    [InlineData("--quirk consent-missing")]
    [InlineData("--token-uses 1")]
    public async Task No_command_shows_or_leaves_a_secret(string quirk)
    {
        string[] secrets = ["canary-refresh-token-01", "canary+pass/word %02", "canary-partner-03", Job.Secret];
        using var cloud = await StandIn.StartAsync([.. quirk.Contains("--client-secret") ? [] : new[] { "--client-secret", Job.Secret }, .. quirk.Split(' ', StringSplitOptions.RemoveEmptyEntries)]);
        using var job = new SignInJob(cloud.Address, "grant: none");
        job.Variables["PASSWORD"] = secrets[1];
        job.Variables["PARTNER"] = secrets[2];
        job.Variables["SEED"] = secrets[0];
        const string client = "client-id: brackwater-demo\nissuer: '{cloud}'\nsecret: kept:app\nheaders-beside: { X-Partner: env:PARTNER }\ntoken-parameters: { partner: env:PARTNER }";
        string[] identities =
        [
            $"grant: client_credentials\n{client}",
            $"grant: client_credentials\n{client}\nclient-auth: client_secret_post\ntoken-body: json",
            $"grant: refresh_token\n{client}\nrefresh-token: env:SEED",
            $"grant: password\n{client}\nusername: night-clerk\npassword: env:PASSWORD",
            $"grant: client_credentials\n{client}\nprivate-key: {{ private: file:app.p12, password: env:PASSWORD }}\nclient-auth: private_key_jwt",
            $"grant: client_credentials\n{client}\nprivate-key: {{ private: file:app.p12, password: env:SEED }}\nclient-auth: private_key_jwt",
            "grant: header\nheader: X-Api-Key\nsecret: kept:app",
        ];
        var said = new List<Ended>
        {
            await job.DoAsync(["secret", "keep", "app"], input: Job.Secret + " "),
            await job.DoAsync(["secret", "list", "--format", "json"]),
            await job.DoAsync(["cert", "create", "--out", "app", "--kind", "p256", "--password", "env:PASSWORD"]),
            await job.DoAsync(["cert", "show", "app.p12", "--password", "env:SEED"]),
            await job.DoAsync(["token", "read"], input: "canary-partner-03"),
        };

        // Without a quirk everything; with one, those that meet it.
        foreach (var identity in quirk.Length == 0 ? identities : [identities[0], identities[2], identities[3]])
        {
            job.Write(cloud.Address, identity, "probe: { get: /me }");
            string[][] commands = [["run", job.Path, "--new", "--log", "debug"], ["check", job.Path], ["check", job.Path, "--live"], ["token", "get", job.Path, "--log", "json"], ["token", "read", "--job", job.Path], ["token", "revoke", job.Path], ["sign-in", job.Path, "--paste"]];
            foreach (var command in quirk.Length == 0 ? commands : [commands[0], commands[2], commands[3]])
                said.Add(await job.DoAsync(command));
        }

        foreach (var ended in said)
            ended.All.ShouldNotContain("   at ");
        File.Delete(job["app.pem"]); // its certificate and key are base64, where anything may stand by chance
        var all = new Ended(0, string.Concat(said.Select(ended => ended.Out)), string.Concat(said.Select(ended => ended.Error)));
        foreach (var secret in secrets)
            Search(job.Folder, all, secret);
    }

    /// <summary>An API that says back whatever it was sent, in links and in refusals.</summary>
    [Fact]
    public async Task Nothing_that_an_API_says_back_is_left_or_shown()
    {
        string[] secrets = ["canary-key+01/x y", "canary%header\\02", "canary-second-03<&>"];
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            whole: { get: /odd/mirror, rows: /items, paging: { next-link: /next }, query: { second: env:SECOND } }
            some: { per: { name: s, list: ["403", "none"] }, get: /odd/mirror, query: { status: "{s}", second: env:SECOND }, rows: /items, skip-when: [{ status: 403, at: /code, is: mirrored, because: "the mirror refuses" }] }
            """,
            """
            whole: { sql: select * from whole order by page, write: [whole.csv] }
            skipped: { sql: select * from skips, write: [skips.csv, skips.html] }
            """,
            api: "headers: { X-Key: env:HEADER }\n    query: { key: env:KEY }\n    attempts: 1");
        (string, string?)[] variables = [("KEY", secrets[0]), ("HEADER", secrets[1]), ("SECOND", secrets[2])];
        var said = new List<Ended> { (await job.DoAsync(["run", job.Path, "--trace", job["run.har"], "--log", "debug"], null, variables)).ShouldEndWith(0) };
        string Digest(string text) => Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..12];
        (await File.ReadAllTextAsync(job["reports/whole.csv"])).ShouldBe("page,key,second,header\r\n" + string.Concat(Enumerable.Range(1, 3).Select(page => $"{page},{Digest(secrets[0])},{Digest(secrets[2])},{Digest(secrets[1])}\r\n")));

        job.Yaml = job.Yaml.Replace("get: /odd/mirror,", "get: /odd/mirror?status=400,");
        job.Save();
        said.Add((await job.DoAsync(["run", job.Path, "--new", "--log", "json", "--format", "json", "--trace", job["refused.har"]], null, variables)).ShouldEndWith(5));
        said[^1].Error.ShouldContain("mirrored");
        foreach (var command in new string[][] { ["runs", "list", job.Path], ["runs", "show", job.Path, "1"], ["runs", "list", job.Path, "--format", "json"], ["report", job.Path, "--run", "1"], ["check", job.Path], ["check", job.Path, "--live"], ["call", job.Path, "exchange", "/odd/mirror?status=400"], ["call", job.Path, "exchange", "/odd/mirror"] })
            said.Add(await job.DoAsync(command, null, variables));
        var all = new Ended(0, string.Concat(said.Select(ended => ended.Out)), string.Concat(said.Select(ended => ended.Error)));
        foreach (var secret in secrets)
            Search(job.Folder, all, secret);
        foreach (var control in new[] { "\u001b", "\u202e", "\u0007" })
            all.All.ShouldNotContain(control);
    }

    /// <summary>A trace that others could read is replaced, and a link is not written through.</summary>
    [Fact]
    public async Task A_trace_is_a_new_file_of_ones_own()
    {
        using var cloud = await StandIn.StartAsync("--rows", "10", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Depots);
        await File.WriteAllTextAsync(job["victim"], "untouched");
        File.SetUnixFileMode(job["victim"], (UnixFileMode)Convert.ToInt32("666", 8));
        File.CreateSymbolicLink(job["trace.har"], job["victim"]);
        (await job.RunAsync("--trace", job["trace.har"])).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["victim"])).ShouldBe("untouched");
        File.GetUnixFileMode(job["trace.har"]).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }

    /// <summary>A service without a home gets no state in a folder that everybody shares.</summary>
    [Fact]
    public async Task Without_a_place_for_state_nothing_is_begun()
    {
        using var job = new Job("http://127.0.0.1:1", Pieces.Depots);
        var ended = (await job.DoAsync(["run", job.Path], null, ("CURSIVA_STATE", null), ("HOME", null), ("XDG_STATE_HOME", null), ("STATE_DIRECTORY", null))).ShouldEndWith(1);
        ended.Error.ShouldContain("there is no place for the state");
        ended.Error.ShouldContain("--state or CURSIVA_STATE");
        (await job.DoAsync(["run", job.Path, "--state", job["state"]], null, ("CURSIVA_STATE", null), ("HOME", null), ("XDG_STATE_HOME", null), ("STATE_DIRECTORY", null))).ShouldEndWith(4);
    }

    private static void Search(Job job, Ended ended) => Search(job.Folder, ended, Job.Secret);

    private static void Search(string folder, Ended ended, string secret)
    {
        var places = Directory.GetFiles(folder, "*", SearchOption.AllDirectories).ToDictionary(file => file, file => Encoding.Latin1.GetString(File.ReadAllBytes(file)));
        places["stdout"] = ended.Out;
        places["stderr"] = ended.Error;
        var utf8 = Encoding.UTF8.GetBytes(secret);
        var encoded = Uri.EscapeDataString(secret).Replace("%20", "+");
        string[] forms =
        [
            secret, Uri.EscapeDataString(secret), encoded, Convert.ToBase64String(utf8), Convert.ToBase64String(utf8).TrimEnd('='), System.Text.Json.JsonEncodedText.Encode(secret).ToString(),
            Convert.ToBase64String(Encoding.UTF8.GetBytes($"brackwater-demo:{encoded}")),
            "eyJhbGci", // how every signed token begins
            "at-", "rt-", // how the others do
        ];
        foreach (var (place, text) in places)
        {
            foreach (var form in forms)
                Stands(text, form).ShouldBeFalse($"'{form}' stands in {place}");
        }
    }

    // The beginnings of tokens are followed by what no word is followed by.
    private static bool Stands(string text, string form) => form is "at-" or "rt-"
        ? System.Text.RegularExpressions.Regex.IsMatch(text, $"(?<![a-z]){form}[0-9a-f]{{32}}")
        : text.Contains(form, StringComparison.Ordinal);
}
