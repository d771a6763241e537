namespace Cursiva.Cli.Tests;

/// <summary>Every grant and every way of proving the client, from the job file to landed rows.</summary>
public sealed class GrantTests
{
    private const string Client = "client-id: brackwater-demo\ntoken-endpoint: '{cloud}/oauth2/token'";

    [Theory]
    [InlineData("grant: client_credentials\nsecret: env:CLIENT_SECRET", "")]
    [InlineData("grant: client_credentials\nsecret: env:CLIENT_SECRET\nclient-auth: client_secret_post", "")]
    [InlineData("grant: client_credentials\nsecret: env:CLIENT_SECRET\nclient-auth: [client_secret_basic, client_secret_post]", "--quirk both-proofs")]
    [InlineData("grant: client_credentials\nsecret: env:CLIENT_SECRET\nclient-auth: client_secret_post\ntoken-body: json", "--quirk json-body")]
    [InlineData("grant: client_credentials\nsecret: env:CLIENT_SECRET", "--quirk expires-missing")]
    [InlineData("grant: client_credentials\nsecret: env:CLIENT_SECRET", "--quirk expires-text --quirk type-upper-case --quirk content-type-text")]
    [InlineData("grant: client_credentials\nsecret: env:CLIENT_SECRET", "--quirk opaque --quirk scope-missing")]
    [InlineData("grant: password\nsecret: env:CLIENT_SECRET\nusername: night-clerk\npassword: env:PERSON", "")]
    [InlineData("grant: header\nheader: X-Api-Key\nsecret: env:CLIENT_SECRET", "--quirk api-key")]
    [InlineData("grant: client_credentials\nsecret: [env:WRONG, env:CLIENT_SECRET]", "")]
    public async Task An_identity_gets_in(string identity, string quirks)
    {
        using var cloud = await StandIn.StartAsync(["--client-secret", Job.Secret, .. quirks.Split(' ', StringSplitOptions.RemoveEmptyEntries)]);
        using var job = new SignInJob(cloud.Address, identity.Contains("grant: header") ? identity : identity + "\n" + Client);
        job.Variables["PERSON"] = "not-a-real-password";
        job.Variables["WRONG"] = "yesterdays-secret";
        var ended = (await job.RunAsync()).ShouldEndWith(0);
        ended.Out.ShouldContain("12  rows");
        if (identity.Contains("WRONG"))
        {
            ended.Error.ShouldContain("the secret of env:WRONG was refused");
            ended.Error.ShouldContain("the secret of env:CLIENT_SECRET still works");
        }
    }

    [Theory]
    [InlineData("rsa2048", "", "")]
    [InlineData("rsa2048", "assertion: { algorithm: PS256, x5c: true, lifetime: 5m }", "")]
    [InlineData("p256", "", "")]
    [InlineData("p384", "assertion: { audience: '{cloud}' }", "--quirk assertion-for-issuer")]
    public async Task A_signed_assertion_proves_the_client(string kind, string assertion, string quirk)
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: none");
        var certificate = await job.CertificateAsync("app", "--kind", kind, "--password", "env:CLIENT_SECRET");
        using var cloud = await StandIn.StartAsync(["--client-certificate", certificate, .. quirk.Split(' ', StringSplitOptions.RemoveEmptyEntries)]);
        foreach (var file in new[] { "app.p12", "app.pem" })
        {
            job.Write(cloud.Address, $"grant: client_credentials\n{Client}\nprivate-key: {{ private: file:{file}, password: env:CLIENT_SECRET }}\n{assertion}");
            (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0).Out.ShouldContain("consignments.export");
        }

        job.Write(cloud.Address, $"grant: urn:ietf:params:oauth:grant-type:jwt-bearer\n{Client}\nprivate-key: {{ private: file:app.p12, password: env:CLIENT_SECRET }}\n{(assertion.Length > 0 ? assertion.Replace(" }", ", subject: depot-clerk }") : "assertion: { subject: depot-clerk }")}");
        var token = (await job.DoAsync(["token", "get", job.Path, "--reveal"])).ShouldEndWith(0);
        (await job.DoAsync(["token", "read", token.Out.Trim(), "--offline"])).ShouldEndWith(0).Out.ShouldContain("depot-clerk");
    }

    [Theory]
    [InlineData("app.p12", "wrong-password", "the password is wrong")]
    [InlineData("app.pem", "wrong-password", "the password is wrong")]
    [InlineData("app.pem", null, "protected by a password")]
    [InlineData("app.crt", null, "contains only the public half, but the private key is needed")]
    [InlineData("public.pem", null, "contains only the public half, but the private key is needed")]
    [InlineData("none.p12", null, "there is no such file")]
    [InlineData("other.pem", null, "belongs to another key")]
    public async Task A_key_that_cannot_be_used_is_told(string file, string? password, string message)
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: none");
        await job.CertificateAsync("app", "--kind", "p256", "--password", "env:CLIENT_SECRET");
        await job.CertificateAsync("other", "--kind", "p256");
        File.WriteAllText(job["public.pem"], File.ReadAllText(job["app.pem"])[File.ReadAllText(job["app.pem"]).IndexOf("-----BEGIN CERTIFICATE", StringComparison.Ordinal)..]);
        job.Variables["PASSWORD"] = password;
        job.Write("http://127.0.0.1:1", $"grant: client_credentials\n{Client}\nprivate-key: {{ private: file:{file}{(password is null ? "" : ", password: env:PASSWORD")}{(file == "other.pem" ? ", certificate: app.crt" : "")} }}");
        var ended = (await job.RunAsync()).ShouldEndWith(4);
        ended.Error.ShouldContain(message);
        ended.Error.ShouldNotContain("   at ");
        ended.Error.ShouldContain("next:");
    }

    [Fact]
    public async Task Tls_proves_the_client_and_the_authority_must_be_trusted()
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: none");
        var certificate = await job.CertificateAsync("app", "--kind", "p256");
        using var cloud = await StandIn.StartAsync("--client-certificate", certificate, "--tls-authority", job["authority.pem"]);
        var identity = $"grant: client_credentials\nclient-auth: tls_client_auth\n{Client}\nprivate-key: {{ private: file:app.p12 }}";
        job.Write(cloud.Address, identity);
        var untrusted = (await job.RunAsync()).ShouldEndWith(4);
        untrusted.Error.ShouldContain("the server's certificate is not trusted on this machine");
        untrusted.Error.ShouldContain("trust:");

        job.Write(cloud.Address, identity + "\ntrust: authority.pem", "trust: authority.pem");
        (await job.RunAsync()).ShouldEndWith(0);
        job.Write(cloud.Address, identity + "\ntrust: app.pem", "trust: authority.pem");
        (await job.RunAsync("--new")).ShouldEndWith(4); // the token that is kept belongs to another declaration
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4).Error.ShouldContain("not trusted");
    }

    [Fact]
    public async Task A_token_elsewhere_goes_under_another_header_with_others_beside_it()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "token-elsewhere", "--quirk", "session-header");
        var identity = $"grant: client_credentials\nsecret: env:CLIENT_SECRET\n{Client}\ntoken-at: /data/session\nheader: X-Session\nheaders-beside: {{ X-Partner-Key: env:PARTNER, X-Account: '{{token/data/account}}' }}";
        using var job = new SignInJob(cloud.Address, identity);
        job.Variables["PARTNER"] = "partner-0001";
        (await job.RunAsync()).ShouldEndWith(0);
        (await job.RunAsync("--new")).ShouldEndWith(0); // from the cache
        (await cloud.StatisticsAsync()).GetProperty("tokens_issued").GetInt32().ShouldBe(1);

        job.Variables["PARTNER"] = "partner-0001\nX-Evil: 1";
        var broken = (await job.RunAsync("--new")).ShouldEndWith(4);
        broken.Error.ShouldContain("the header X-Partner-Key of identity 'app' would contain a line break after 12 characters");
        broken.All.ShouldNotContain("X-Evil");
    }

    [Fact]
    public async Task Endpoints_are_found_from_the_issuer()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, "grant: client_credentials\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET\nissuer: '{cloud}'");
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Theory]
    [InlineData("no-metadata", "the metadata of identity 'app' could not be read")]
    [InlineData("metadata-of-another", "is for the issuer 'https://other.example'")]
    public async Task An_issuer_whose_metadata_cannot_be_used_is_told(string quirk, string message)
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", quirk);
        using var job = new SignInJob(cloud.Address, "grant: client_credentials\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET\nissuer: '{cloud}'");
        (await job.RunAsync()).ShouldEndWith(4).Error.ShouldContain(message);
    }

    [Fact]
    public async Task The_next_run_uses_the_token_of_the_last_one_and_another_identity_does_not()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, $"grant: client_credentials\nsecret: env:CLIENT_SECRET\n{Client}");
        for (var i = 0; i < 3; i++)
            (await job.RunAsync("--new")).ShouldEndWith(0);
        (await cloud.StatisticsAsync()).GetProperty("tokens_issued").GetInt32().ShouldBe(1);

        job.Write(cloud.Address, $"grant: client_credentials\nsecret: env:CLIENT_SECRET\nscope: depots.read\n{Client}");
        (await job.RunAsync("--new")).ShouldEndWith(0);
        (await cloud.StatisticsAsync()).GetProperty("tokens_issued").GetInt32().ShouldBe(2);
    }

    [Fact]
    public async Task Check_advises_against_a_persons_password()
    {
        using var job = new SignInJob("http://127.0.0.1:1", $"grant: password\nsecret: env:CLIENT_SECRET\nusername: night-clerk\npassword: env:CLIENT_SECRET\n{Client}");
        (await job.DoAsync(["check", job.Path])).ShouldEndWith(0).Out.ShouldContain("signs in with a person's password");
    }
}
