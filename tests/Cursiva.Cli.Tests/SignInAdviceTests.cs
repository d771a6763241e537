namespace Cursiva.Cli.Tests;

/// <summary>The commands that a refused sign-in advises are whole, and do what they promise.</summary>
public sealed class SignInAdviceTests
{
    private const string Client = "grant: client_credentials\ntoken-endpoint: '{cloud}/oauth2/token'\nclient-id: brackwater-demo\n";

    private const string Person = "grant: authorization_code\nissuer: '{cloud}'\nclient-id: brackwater-person\nscope: [consignments.read, offline_access]";

    [Fact]
    public async Task A_missing_secret_is_kept_where_the_job_looks_for_it()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Client + "secret: kept:exchange");
        var missing = (await job.RunAsync("--state", "other")).ShouldEndWith(4);
        await DoneAsync(job, new Advised("SecretSources.cs", "there is no secret named '", "store it once: cursiva secret keep"), missing, Job.Secret);
        (await job.RunAsync("--state", "other")).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_secret_whose_key_was_lost_is_removed_and_kept_again()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Client + "secret: kept:exchange");
        (await job.DoAsync(["secret", "keep", "exchange"], Job.Secret)).ShouldEndWith(0);
        File.Delete(Path.Combine(job.State, "store.key"));
        await DoneAsync(job, new Advised("Vault.cs", "was sealed with another key", "restore the old key, or remove the entry and store the secret again: cursiva secret remove"), await job.RunAsync());
        (await job.DoAsync(["secret", "keep", "exchange"], Job.Secret)).ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_secret_that_was_changed_on_the_disk_is_kept_again()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Client + "secret: kept:exchange");
        (await job.DoAsync(["secret", "keep", "exchange"], Job.Secret)).ShouldEndWith(0);

        // The entry's sealed bytes, in base64 inside its document: one letter changed.
        var database = File.ReadAllBytes(Path.Combine(job.State, "state.db"));
        var place = database.AsSpan().IndexOf("\"Sealed\":\""u8) + 60;
        database[place] = database[place] == (byte)'A' ? (byte)'B' : (byte)'A';
        File.WriteAllBytes(Path.Combine(job.State, "state.db"), database);
        await DoneAsync(job, new Advised("Vault.cs", "was changed after it was stored", "store the secret again: cursiva secret keep"), await job.RunAsync(), Job.Secret);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_key_of_a_header_with_white_space_is_kept_again_without_it()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "api-key");
        using var job = new SignInJob(cloud.Address, "grant: header\nheader: X-Api-Key\nsecret: kept:exchange-key");
        (await job.DoAsync(["secret", "keep", "exchange-key", "--as-is"], Job.Secret + " ")).ShouldEndWith(0);
        var refused = (await job.RunAsync()).ShouldEndWith(4);
        await DoneAsync(job, new Advised("TokenMaker.cs", "would contain {", "store the secret again without it: cursiva secret keep"), refused, Job.Secret);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Theory]
    [InlineData("nobody")]
    [InlineData("removed")]
    [InlineData("revoked")]
    public async Task A_person_signs_in_by_the_command_and_the_job_runs(string state)
    {
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person);
        if (state != "nobody")
        {
            var kept = (await job.SignInAsync(cloud.BrowseAsync)).ShouldEndWith(0).Out.Split('\'')[1];
            (await job.DoAsync(state == "revoked" ? ["token", "revoke", job.Path] : ["secret", "remove", kept])).ShouldEndWith(0);
        }

        var refused = (await job.RunAsync()).ShouldEndWith(4);
        var advised = state == "revoked" ? new Advised("RefreshTokens.cs", "", "sign in once more: cursiva sign-in") : new Advised("RefreshTokens.cs", "there is no refresh token for identity '", "sign in once: cursiva sign-in");
        (await job.BrowseAsync(cloud.BrowseAsync, [.. advised.CommandIn(refused.Error).Split(' ').Skip(1)])).ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Theory]
    [InlineData("kept:seed", "cursiva secret keep seed")]
    [InlineData("env:SEED", "set the environment variable SEED")]
    [InlineData("file:seed.txt", "write the file seed.txt")]
    public async Task A_refresh_token_from_elsewhere_is_put_where_it_came_from(string source, string step)
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, $"grant: refresh_token\ntoken-endpoint: '{{cloud}}/oauth2/token'\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET\nrefresh-token: {source}");
        await PutAsync(job, source, await cloud.SeedAsync());
        (await job.RunAsync()).ShouldEndWith(0);
        await cloud.RevokeFamiliesAsync();
        var refused = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4);
        refused.Error.ShouldContain("sign in once more at the refresh token's origin, then " + step);
        refused.Error.ShouldNotContain("cursiva sign-in");
        await PutAsync(job, source, await cloud.SeedAsync());
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_certificate_of_another_key_is_told_by_its_thumbprint()
    {
        using var job = new SignInJob("http://127.0.0.1:1", Client + "private-key: { private: file:app.pem, certificate: other.crt }");
        await job.CertificateAsync("app", "--kind", "p256");
        await job.CertificateAsync("other", "--kind", "p256");
        var other = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4);
        (await DoneAsync(job, new Advised("KeyFile.cs", "belongs to another key than ", "name the certificate that was made with this key; cursiva cert show"), other)).Out.ShouldContain("SHA-256");
    }

    [Fact]
    public async Task A_certificate_that_has_ended_is_made_anew_by_the_command()
    {
        using var job = new SignInJob("http://127.0.0.1:1", Client + "private-key: { private: file:old.p12 }");
        await job.CertificateAsync("old", "--kind", "p256", "--from", "2020-01-01", "--until", "2021-01-31");
        var ended = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4);
        await DoneAsync(job, new Advised("TokenEndpoint.cs", "; nothing was sent", "make a new one with cursiva cert create"), ended);
        await RegisteredAsync(job);
    }

    [Fact]
    public async Task A_certificate_that_proves_nothing_is_not_blamed_for_a_wrong_secret()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Client + "secret: env:CLIENT_SECRET\nprivate-key: { private: file:old.p12 }\nclient-auth: client_secret_basic");
        await job.CertificateAsync("old", "--kind", "p256", "--from", "2020-01-01", "--until", "2021-01-31");
        job.Variables["CLIENT_SECRET"] = "nonsense";
        var refused = (await job.RunAsync()).ShouldEndWith(4);
        refused.Error.ShouldContain("the secret is wrong");
        refused.All.ShouldNotContain("certificate");
    }

    [Fact]
    public async Task A_certificate_that_signs_requests_and_has_ended_is_made_anew_by_the_command()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Client + "secret: env:CLIENT_SECRET", "signatures: { requests: { form: http-message, key: file:old.p12 } }");
        await job.CertificateAsync("old", "--kind", "p256", "--from", "2020-01-01", "--until", "2021-01-31");
        var ended = (await job.RunAsync()).ShouldEndWith(4);
        await DoneAsync(job, new Advised("KeyRing.cs", "its certificate {", "make a new one with cursiva cert create"), ended);
        File.WriteAllText(job.Path, File.ReadAllText(job.Path).Replace("old.p12", "cursiva-cert.p12"));
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_certificate_that_ends_soon_is_told_by_the_run_with_the_command_that_makes_the_next()
    {
        using var job = new SignInJob("http://127.0.0.1:1", Client + "private-key: { private: file:app.p12 }");
        await job.CertificateAsync("app", "--kind", "p256", "--until", DateTime.UtcNow.AddDays(9).ToString("yyyy-MM-dd"));
        using var cloud = await StandIn.StartAsync("--client-certificate", job["app.crt"]);
        job.Write(cloud.Address, Client + "private-key: { private: file:app.p12 }");
        var run = (await job.RunAsync()).ShouldEndWith(0);
        await DoneAsync(job, new Advised("Expiries.cs", "", "make a new one with cursiva cert create"), run);
        await RegisteredAsync(job);
    }

    [Fact]
    public async Task A_refresh_token_that_ends_soon_is_renewed_by_a_sign_in_or_kept_alive_by_a_schedule()
    {
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person + "\nrefresh-token-lives: 10d");
        File.AppendAllText(job.Path, "\nschedule: { at: \"06:30\", on: mon }\n");
        (await job.SignInAsync(cloud.BrowseAsync)).ShouldEndWith(0);
        var told = await job.DoAsync(["check", job.Path, "--live"]);
        var command = new Advised("Expiries.cs", "it expires if nobody uses it; ", "sign in again before: cursiva sign-in").CommandIn(told.All);
        (await job.BrowseAsync(cloud.BrowseAsync, [.. command.Split(' ').Skip(1)])).ShouldEndWith(0);
        command = new Advised("Expiries.cs", "it expires if nobody uses it; ", "keep it alive: cursiva schedule").CommandIn(told.All);
        (await Advised.RunAsync(command + " --into units", job.Folder, job.Environment)).ShouldEndWith(0);
        Directory.GetFiles(job["units"], "*.timer").ShouldNotBeEmpty();
    }

    [Fact]
    public async Task A_sign_in_that_is_encrypted_is_shown_step_by_step()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, """
            grant: session
            token-endpoint: '{cloud}/customs/old/sign-in'
            token-body: json
            token-parameters: { user_name: brackwater, password: env:CLIENT_SECRET }
            encryption:
              key: '{cloud}/customs/keys'
              key-id: desk-1
              algorithm: RSA1_5
              members: [/password, /app_key]
              session-key: { bytes: 32, send-at: /app_key, answer-at: /data/session_key, wrapped: AES-256-CBC, ends-at: /data/ends }
            token-at: /data/token
            token-ends-at: /data/ends
            header: X-Desk-Token
            """);
        var wrapped = (await job.RunAsync()).ShouldEndWith(4);
        var shown = await Advised.RunAsync(new Advised("SignInSealing.cs", "failed at {", "compare bytes:, send-as: and wrapped: of session-key: with the other side's documentation; cursiva token get").CommandIn(wrapped.Error), job.Folder, job.Environment);
        shown.ShouldEndWith(4).All.ShouldContain("session key");
        File.WriteAllText(job.Path, File.ReadAllText(job.Path).Replace("AES-256-CBC", "AES-256-ECB").Replace("RSA1_5", "RSA-OAEP"));
        var refused = (await job.RunAsync()).ShouldEndWith(4);
        shown = await Advised.RunAsync(new Advised("SignInSealing.cs", "the sign-in was encrypted under the key of {", "; cursiva token get").CommandIn(refused.Error), job.Folder, job.Environment);
        shown.ShouldEndWith(4).All.ShouldContain("fresh key");
    }

    [Fact]
    public async Task A_token_that_only_its_server_can_read_is_read_there_by_the_command()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "opaque");
        using var job = new SignInJob(cloud.Address, "grant: client_credentials\nissuer: '{cloud}'\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET\npermissions: [consignments.export]");
        var check = await job.DoAsync(["check", job.Path, "--live"]);
        var read = await Advised.RunAsync(new Advised("IdentityProbe.cs", "the token is opaque", "cursiva token read").CommandIn(check.Out), job.Folder, job.Environment);
        read.All.ShouldContain("this is what the server says about it");
    }

    [Fact]
    public async Task A_persons_password_is_replaced_by_a_sign_in()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, "grant: password\ntoken-endpoint: '{cloud}/oauth2/token'\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET\nusername: night-clerk\npassword: env:CLIENT_SECRET");
        var check = await job.DoAsync(["check", job.Path]);
        var command = new Advised("IdentityAccount.cs", "signs in with a person's password", "Prefer client_credentials, or authorization_code with cursiva sign-in").CommandIn(check.All);
        job.Write(cloud.Address, Person);
        (await job.BrowseAsync(cloud.BrowseAsync, [.. command.Split(' ').Skip(1)])).ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task An_identity_of_each_strand_is_tried_with_the_value_that_the_message_asks_for()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "tenants: { get: /tenants, rows: /items }\nscans:\n  per: tenants\n  get: /tenants/{tenants.id}/scans\n  rows: /items\n  identity: each");
        job.Yaml = job.Yaml.Replace("apis:", $"  each:\n    grant: client_credentials\n    token-endpoint: {cloud.Address}/oauth2/token\n    client-id: brackwater-demo\n    secret: env:BRACKWATER_SECRET\n    token-parameters: {{ tenant: '{{tenants.id}}' }}\napis:");
        job.Save();
        var check = await job.DoAsync(["check", job.Path, "--live"]);
        var command = new Advised("LiveCheck.cs", "not checked, since it is filled in for each strand", "try one: cursiva token get").CommandIn(check.Out);
        command.ShouldEndWith("--value tenants.id=");
        (await Advised.RunAsync(command + "T0001", job.Folder, job.Environment)).ShouldEndWith(0);
    }

    // The public half is registered, and the job names the new pair.
    private static async Task RegisteredAsync(SignInJob job)
    {
        using var cloud = await StandIn.StartAsync("--client-certificate", job["cursiva-cert.crt"]);
        job.Write(cloud.Address, Client + "private-key: { private: file:cursiva-cert.p12 }");
        (await job.RunAsync("--new")).ShouldEndWith(0);
    }

    private static async Task PutAsync(SignInJob job, string source, string seed)
    {
        if (source.StartsWith("kept", StringComparison.Ordinal))
            (await job.DoAsync(["secret", "keep", "seed"], seed)).ShouldEndWith(0);
        else if (source.StartsWith("env", StringComparison.Ordinal))
            job.Variables["SEED"] = seed;
        else
            File.WriteAllText(job["seed.txt"], seed);
        if (File.Exists(job["seed.txt"]))
            File.SetUnixFileMode(job["seed.txt"], UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }

    private static async Task<Ended> DoneAsync(SignInJob job, Advised advised, Ended told, string? input = null) =>
        (await Advised.RunAsync(advised.CommandIn(told.All), job.Folder, job.Environment, input)).ShouldEndWith(0);
}
