using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>The encrypted store, its key, and every source of a secret.</summary>
public sealed class StoreTests : IAsyncLifetime
{
    private const string Client = "grant: client_credentials\nclient-id: brackwater-demo\ntoken-endpoint: '{cloud}/oauth2/token'\nsecret: ";

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task A_secret_is_kept_listed_used_and_dropped()
    {
        using var job = new SignInJob(_cloud.Address, Client + "kept:app");
        (await job.RunAsync()).ShouldEndWith(4).Error.ShouldContain("store it once: cursiva secret keep app");
        (await job.DoAsync(["secret", "keep", "app", "--expires", "2199-01-31"], input: Job.Secret + "\n")).ShouldEndWith(0).All.ShouldNotContain(Job.Secret);
        (await job.RunAsync()).ShouldEndWith(0);

        using var list = JsonDocument.Parse((await job.DoAsync(["secret", "list", "--format", "json"])).ShouldEndWith(0).Out);
        list.RootElement[0].GetProperty("name").GetString().ShouldBe("app");
        list.RootElement[0].GetProperty("expires").GetDateTimeOffset().Year.ShouldBe(2199);
        (await job.DoAsync(["secret", "list"])).ShouldEndWith(0).Out.ShouldContain("on 2199-01-31");
        (await job.DoAsync(["secret", "remove", "app"])).ShouldEndWith(0);
        (await job.DoAsync(["secret", "remove", "app"])).ShouldEndWith(2).Error.ShouldContain("there is no secret named 'app'");
        (await job.DoAsync(["secret", "list"])).ShouldEndWith(0).Out.ShouldContain("The store is empty");
    }

    [Fact]
    public async Task A_secret_that_is_typed_is_not_shown()
    {
        Tools.Require("script");
        using var job = new SignInJob(_cloud.Address, Client + "kept:app");

        // Typed only once it is asked for: before that the terminal itself would show it.
        var typed = $"-qec \"{App.Cursiva} secret keep app\" /dev/null";
        var shell = $"(for i in $(seq 200); do grep -q 'not shown' shown && break; sleep 0.05; done; sleep 0.2; printf '%s\\r' \"$TYPED\") | script {typed} > shown";
        (await App.RunAsync("bash", ["-c", shell], job.Folder, [.. job.Environment, ("TERM", "xterm"), ("TYPED", "x\u007f" + Job.Secret)])).ShouldEndWith(0);
        var shown = await File.ReadAllTextAsync(Path.Combine(job.Folder, "shown"));
        shown.ShouldContain("the secret to store as 'app' (not shown): ");
        shown.ShouldNotContain(Job.Secret[..5]);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Theory]
    [InlineData(" the-secret", "a space at its beginning")]
    [InlineData("the-secret\t\n", "a tab at its end")]
    [InlineData("the-secret\n\n", "a line break at its end")]
    public async Task White_space_around_a_secret_is_noticed_and_left_away(string input, string where)
    {
        using var job = new SignInJob(_cloud.Address, Client + "kept:app");
        var kept = (await job.DoAsync(["secret", "keep", "app"], input: input)).ShouldEndWith(0);
        kept.Error.ShouldContain(where);
        kept.Out.ShouldContain("(10 characters)");
        (await job.DoAsync(["secret", "keep", "app", "--as-is"], input: input)).ShouldEndWith(0).Out.ShouldNotContain("(10 characters)");
        (await job.DoAsync(["secret", "keep", "app"], input: " \n")).ShouldEndWith(2).Error.ShouldContain("the secret is empty");
    }

    [Fact]
    public async Task Another_key_and_a_changed_entry_are_told_apart()
    {
        using var job = new SignInJob(_cloud.Address, Client + "kept:app");
        (await job.DoAsync(["secret", "keep", "app"], input: Job.Secret)).ShouldEndWith(0);
        foreach (var (path, mode) in new[] { (Path.Combine(job.State, "store.key"), "600"), (Path.Combine(job.State, "state.db"), "600") })
            Convert.ToString((int)File.GetUnixFileMode(path), 8).ShouldBe(mode, path);

        job.Variables["CURSIVA_STORE_KEY"] = Convert.ToBase64String(new byte[32]);
        (await job.RunAsync()).ShouldEndWith(4).Error.ShouldContain("'app' was sealed with another key than that of the environment variable CURSIVA_STORE_KEY");
        job.Variables["CURSIVA_STORE_KEY"] = "short";
        (await job.RunAsync()).ShouldEndWith(4).Error.ShouldContain("does not contain the store's key");
        job.Variables["CURSIVA_STORE_KEY"] = null;

        job.Variables["CURSIVA_STORE_KEY_FILE"] = job["own.key"];
        (await job.RunAsync()).ShouldEndWith(4).Error.ShouldContain("there is no such file");
        File.Copy(Path.Combine(job.State, "store.key"), job["own.key"]);
        (await job.RunAsync()).ShouldEndWith(0);
        File.SetUnixFileMode(job["own.key"], UnixFileMode.UserRead | UnixFileMode.OtherRead);
        (await job.RunAsync("--new")).ShouldEndWith(4).Error.ShouldContain("can be read by others");
        job.Variables["CURSIVA_STORE_KEY_FILE"] = null;

        // The entry's sealed bytes, in base64 inside its document: one letter changed.
        var database = File.ReadAllBytes(Path.Combine(job.State, "state.db"));
        var place = database.AsSpan().IndexOf("\"Sealed\":\""u8) + 60;
        database[place] = database[place] == (byte)'A' ? (byte)'B' : (byte)'A';
        File.WriteAllBytes(Path.Combine(job.State, "state.db"), database);
        (await job.RunAsync("--new")).ShouldEndWith(4).Error.ShouldContain("the sealed entry 'app' was changed after it was stored");
    }

    [Fact]
    public async Task Every_source_is_read()
    {
        using var job = new SignInJob(_cloud.Address, Client + "env:IN_FILE");
        File.WriteAllText(job["my.env"], $"# of the night job\nexport IN_FILE='{Job.Secret}'\n");
        (await job.RunAsync()).ShouldEndWith(4).Error.ShouldContain("the environment variable IN_FILE is not set");
        (await job.RunAsync("--env-file", "my.env")).ShouldEndWith(0);
        File.WriteAllText(job.Path, File.ReadAllText(job.Path).Replace("inputs:", "env-file: my.env\ninputs:"));
        (await job.RunAsync("--new")).ShouldEndWith(0);
        File.WriteAllText(job["my.env"], "IN_FILE=x\nthis line is a secret\n");
        var wrong = (await job.RunAsync("--new")).ShouldEndWith(3);
        wrong.Error.ShouldContain("line 2 of the environment file");
        wrong.Error.ShouldNotContain("this line is a secret");

        File.WriteAllText(job["credentials.json"], JsonSerializer.Serialize(new { installed = new { client_secret = Job.Secret } }));
        job.Write(_cloud.Address, Client + "file:credentials.json#/installed/client_secret");
        (await job.RunAsync("--new")).ShouldEndWith(0).Error.ShouldContain("credentials.json can be read by others");
        File.SetUnixFileMode(job["credentials.json"], UnixFileMode.UserRead);
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0).Error.ShouldBeEmpty();
        job.Write(_cloud.Address, Client + "file:credentials.json#/installed/none");
        (await job.RunAsync("--new")).ShouldEndWith(4).Error.ShouldContain("has no text at /installed/none");

        Directory.CreateDirectory(job["credentials"]);
        File.WriteAllText(job["credentials/app-secret"], Job.Secret);
        job.Write(_cloud.Address, Client + "systemd:app-secret");
        (await job.RunAsync("--new")).ShouldEndWith(4).Error.ShouldContain("LoadCredential=app-secret:PATH");
        job.Variables["CREDENTIALS_DIRECTORY"] = job["credentials"];
        (await job.RunAsync("--new")).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_state_that_cannot_be_used_is_told_by_every_command()
    {
        using var job = new SignInJob(_cloud.Address, Client + "env:CLIENT_SECRET");
        File.WriteAllText(Path.Combine(job.State, "state.db"), "this is not a database, and was never meant to be one");
        string[][] commands = [["secret", "list"], ["secret", "keep", "app"], ["token", "get", job.Path], ["token", "revoke", job.Path], ["check", job.Path, "--live"], ["run", job.Path]];
        foreach (var command in commands)
        {
            var ended = (await job.DoAsync(command, input: Job.Secret)).ShouldEndWith(1);
            ended.Error.ShouldContain("the state folder cannot be used");
            ended.Error.ShouldContain("name another folder with --state");
            ended.All.ShouldNotContain("   at ");
        }

        (await job.DoAsync(["secret", "list", "--state", Path.Combine(job.Path, "below-a-file")])).ShouldEndWith(1).Error.ShouldContain("the state folder cannot be used");
    }
}
