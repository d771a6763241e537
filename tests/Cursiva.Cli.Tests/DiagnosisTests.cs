namespace Cursiva.Cli.Tests;

/// <summary>What stands behind each refusal is found out: every case through the built program, with the server's own words quoted.</summary>
public sealed class DiagnosisTests : IAsyncLifetime
{
    private const string Client = "grant: client_credentials\ntoken-endpoint: '{cloud}/oauth2/token'\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET";

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Theory]
    [InlineData("other", "brackwater-demo", "", "the client is known, and the secret is wrong", "invalid_client: the client secret is wrong")]
    [InlineData("3f2c1a7e-5b1d-4c62-9d7c-0a4f6b2e8d11", "brackwater-demo", "", "the secret's id was copied instead of its value", "invalid_client")]
    [InlineData("other ", "brackwater-demo", "", "the secret has white space or a line break, probably copied along (a space at its end)", "invalid_client")]
    [InlineData("oth\ner", "brackwater-demo", "", "the secret has white space or a line break, probably copied along (a line break after 3 characters)", "invalid_client")]
    [InlineData(Job.Secret, "nobody", "", "knows no client with this id", "no such client: 'nobody'")]
    [InlineData(Job.Secret, "brackwater-demo", "--quirk secret-expired", "the client secret has expired", "expired on 2026-01-31")]
    [InlineData(Job.Secret, "brackwater-demo", "--quirk grant-not-allowed", "this client may not use this grant", "unauthorized_client")]
    [InlineData(Job.Secret, "brackwater-demo", "--quirk grant-unknown", "the server does not offer this grant", "unsupported_grant_type")]
    [InlineData(Job.Secret, "brackwater-demo", "--quirk consent-missing", "has not been granted what it requests", "have not been approved by an administrator")]
    [InlineData(Job.Secret, "brackwater-demo", "--quirk json-body", "expects its parameters in another format", "send the parameters as application/json")]
    public async Task The_client_is_refused(string secret, string client, string quirk, string cause, string quote)
    {
        using var cloud = await StandIn.StartAsync(["--client-secret", Job.Secret, .. quirk.Split(' ', StringSplitOptions.RemoveEmptyEntries)]);
        using var job = new SignInJob(cloud.Address, Client.Replace("brackwater-demo", client));
        job.Variables["CLIENT_SECRET"] = secret;
        ShouldSay((await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4), cause, quote, "X-Correlation-Id");
    }

    [Theory]
    [InlineData("scope: [consignments.raed]", "a scope is misspelt or not granted", "scope 'consignments.raed' is not known")]
    [InlineData("token-endpoint: '{cloud}/none'", "not a token endpoint", "status 40")]
    [InlineData("token-endpoint: '{cloud}/odd/token/html'", "a web page answered that asks a person to sign in", "status 200, text/html")]
    [InlineData("token-endpoint: '{cloud}/odd/token/text'", "the answer is not the JSON that RFC 6749 section 5.1 describes", "status 200, text/plain")]
    [InlineData("token-endpoint: '{cloud}/odd/token/empty'", "the answer is not the JSON that RFC 6749 section 5.1 describes", "members: token_type")]
    [InlineData("token-endpoint: '{cloud}/odd/token/failing'", "the authorization server has a problem", "status 503")]
    [InlineData("token-endpoint: '{cloud}/odd/token/moved?to=https://127.0.0.1/token'", "redirects from http to https", "redirects to https://127.0.0.1/token")]
    [InlineData("token-endpoint: '{cloud}/odd/token/moved?to=https://evil.example/token'", "credentials never follow a redirect", "redirects to https://evil.example/token")]
    [InlineData("token-endpoint: 'https://127.0.0.1:1/token'", "the host name, the port or the network is wrong", "connection refused at 127.0.0.1:1")]
    public async Task The_request_is_not_what_the_server_takes(string line, string cause, string quote)
    {
        using var job = new SignInJob(_cloud.Address, Client.Replace("token-endpoint: '{cloud}/oauth2/token'", line.StartsWith("token") ? line : "token-endpoint: '{cloud}/oauth2/token'\n" + line));
        ShouldSay((await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4), cause, quote);
    }

    [Theory]
    [InlineData(400, "invalid_target", "", "does not know the requested audience or resource")]
    [InlineData(400, "interaction_required", "a person has to be present", "a person has to do something in a browser")]
    [InlineData(403, "access_denied", "blocked by a rule", "the person, or a rule of the organisation, refused")]
    [InlineData(403, "access_denied", "the application is in testing and the account is not a tester", "not on its list")]
    [InlineData(400, "invalid_request", "resource is missing", "the request lacks a parameter")]
    [InlineData(401, "unauthorized", "this IP address is not allowed", "this machine's is not among them")]
    [InlineData(400, "invalid_grant", "the code was redeemed already", "the authorization server refused the sign-in")]
    [InlineData(429, "slow", "too many", "too many requests to the authorization server")]
    [InlineData(415, "", "send JSON", "expects its parameters in another format")]
    [InlineData(410, "gone", "use v2", "this version of the endpoint is no longer served")]
    [InlineData(407, "", "", "a proxy in between requires a sign-in")]
    [InlineData(400, "redirect_uri_mismatch", "the redirect_uri is not registered", "the redirect URI differs")]
    public async Task The_server_refuses_in_these_words(int status, string error, string says, string cause)
    {
        using var job = new SignInJob(_cloud.Address, Client.Replace("/oauth2/token", $"/odd/token/refuse?status={status}&error={error}&says={Uri.EscapeDataString(says)}"));
        ShouldSay((await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4), cause, error.Length > 0 ? says : $"status {status}, application/json", "c-0815");
    }

    [Theory]
    [InlineData("other.crt", "", "", "the certificate or key that signed the assertion is not registered", "is not registered for this client")]
    [InlineData("app.crt", "assertion: { audience: https://other.example }", "", "the assertion names another audience", "should be this server")]
    [InlineData("app.crt", "", "--clock-ahead 3600", "this machine's clock and the server's differ", "1 h 00 min ahead of")]
    [InlineData("app.crt", "", "--quirk replay", "the server has seen this assertion before", "already been used")]
    [InlineData("none", "", "", "the certificate or key that signed the assertion is not registered", "no certificate is registered")]
    public async Task The_assertion_is_refused(string registered, string line, string quirk, string cause, string quote)
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: none");
        await job.CertificateAsync("app", "--kind", "p256");
        await job.CertificateAsync("other", "--kind", "p256");
        using var cloud = await StandIn.StartAsync([.. registered == "none" ? [] : new[] { "--client-certificate", job[registered] }, .. quirk.Split(' ', StringSplitOptions.RemoveEmptyEntries)]);
        job.Write(cloud.Address, $"grant: client_credentials\ntoken-endpoint: '{{cloud}}/oauth2/token'\nclient-id: brackwater-demo\n{(line.StartsWith("private-key") ? line : "private-key: { private: file:app.p12 }\n" + line)}");
        var ended = await job.DoAsync(["token", "get", job.Path]);
        if (quirk == "--quirk replay")
            ended = await job.DoAsync(["token", "get", job.Path]);
        ShouldSay(ended.ShouldEndWith(4), cause, quote);
    }

    [Fact]
    public async Task A_certificate_that_has_ended_is_told_and_no_server_is_asked()
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: client_credentials\ntoken-endpoint: '{cloud}/oauth2/token'\nclient-id: brackwater-demo\nprivate-key: { private: file:old.p12 }");
        await job.CertificateAsync("old", "--kind", "p256", "--from", "2020-01-01", "--until", "2021-01-31");
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4).Error.ShouldContain("the certificate of identity 'app' expired on 2021-01-31 23:59Z; nothing was sent");
    }

    [Theory]
    [InlineData("--refresh-lifetime 0", "the refresh token has expired: it was unused for too long", "the refresh token has expired")]
    [InlineData("revoked", "the refresh token was revoked", "the refresh token was revoked")]
    public async Task The_refresh_token_is_refused(string how, string cause, string quote)
    {
        using var cloud = await StandIn.StartAsync(["--client-secret", Job.Secret, .. how.StartsWith("--") ? how.Split(' ') : []]);
        using var job = new SignInJob(cloud.Address, Client.Replace("client_credentials", "refresh_token") + "\nissuer: '{cloud}'\nrefresh-token: env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        if (how == "revoked")
        {
            (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);
            await cloud.RevokeFamiliesAsync();
        }

        ShouldSay((await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4), cause, quote, $"cursiva sign-in {job.Path} app");
    }

    [Fact]
    public async Task A_code_that_was_used_already()
    {
        using var job = new SignInJob(_cloud.Address, "grant: authorization_code\nissuer: '{cloud}'\nclient-id: brackwater-person");
        (await job.DoAsync(["sign-in", job.Path, "--paste"], input: "code-nobody-knows\n")).ShouldEndWith(4).Error.ShouldContain("a code does not include its issuer");
        job.Write(_cloud.Address, "grant: authorization_code\nauthorization-endpoint: '{cloud}/x'\ntoken-endpoint: '{cloud}/oauth2/token'\nclient-id: brackwater-person");
        ShouldSay((await job.DoAsync(["sign-in", job.Path, "--paste"], input: "code-nobody-knows\n")).ShouldEndWith(4), "the authorization code is not valid", "the authorization code is not known");
        job.Write(_cloud.Address, "grant: authorization_code\nauthorization-endpoint: '{cloud}/x'\ntoken-endpoint: '{cloud}/odd/token/refuse?status=400&error=invalid_grant&says=the%20code%20was%20redeemed'\nclient-id: brackwater-person");
        ShouldSay((await job.DoAsync(["sign-in", job.Path, "--paste"], input: "code-0001-of-yesterday\n")).ShouldEndWith(4), "the authorization code was already used", "the code was redeemed");
    }

    [Fact]
    public async Task White_space_in_the_client_id_is_a_mistake_of_the_job()
    {
        using var job = new SignInJob(_cloud.Address, Client.Replace("brackwater-demo", "'{id}'"));
        File.WriteAllText(job.Path, File.ReadAllText(job.Path).Replace("inputs:", "inputs:\n  id: x"));
        (await job.DoAsync(["token", "get", job.Path, "--input", "id=brackwater-demo "])).ShouldEndWith(3).Error.ShouldContain("white space after the client id of identity 'app'");
    }

    [Theory]
    [InlineData("password", "the person's name or password is wrong", "name or password is wrong")]
    public async Task The_person_is_refused(string grant, string cause, string quote)
    {
        using var job = new SignInJob(_cloud.Address, Client.Replace("client_credentials", grant) + "\nusername: night-clerk\npassword: env:CLIENT_SECRET");
        ShouldSay((await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4), cause, quote);
    }

    [Theory]
    [InlineData(401, "", "", "does not accept the token, even a fresh one", "")]
    [InlineData(401, "Bearer error=\"invalid_token\", error_description=\"the audience is invalid\"", "", "issued for another audience", "")]
    [InlineData(401, "", "the user does not exist in this organisation", "the account does not exist in the API", "")]
    [InlineData(401, "ApiKey realm=\"x\"", "send the API key", "a key in a separate header", "the header that the API's documentation names")]
    [InlineData(403, "Bearer error=\"insufficient_scope\", scope=\"vehicles.read\"", "", "the token lacks a scope that this path requires", "")]
    [InlineData(403, "", "the role Vehicles.Read is missing", "the application's token lacks the role", "")]
    [InlineData(403, "", "operation is not supported for applications", "only for people", "")]
    [InlineData(403, "", "the depots API has not been enabled for project 17: visit https://console.brackwater.example/enable?p=17", "not enabled for this client's project", "ask for it to be enabled: https://console.brackwater.example/enable?p=17")]
    [InlineData(403, "", "the tenant has no licence for this module", "the tenant has no licence", "its plan does not include it")]
    [InlineData(403, "", "no role on resource depot 7", "lacks a role on this particular resource", "")]
    [InlineData(403, "", "this IP address is not allowed", "accepts only certain networks", "")]
    [InlineData(403, "", "you are not a tester of this app", "not on its list", "")]
    [InlineData(403, "", "", "lacks a permission or role for this", "")]
    [InlineData(403, "", "please use https", "reached only over https", "")]
    [InlineData(404, "", "", "there is nothing at this address", "")]
    [InlineData(410, "", "this version was retired", "this version of the API is no longer served", "")]
    [InlineData(410, "", "", "the cursor or link has expired", "")]
    [InlineData(407, "", "", "a proxy in between requires a sign-in", "")]
    [InlineData(422, "", "since must be a date", "did not accept the request", "")]
    public async Task The_API_refuses(int status, string challenge, string says, string cause, string next)
    {
        using var job = new SignInJob(_cloud.Address, Client, get: $"/odd/refuse?status={status}&challenge={Uri.EscapeDataString(challenge)}&says={Uri.EscapeDataString(says)}");
        ShouldSay((await job.RunAsync()).ShouldEndWith(5), cause, says, next, "X-Correlation-Id");
    }

    [Theory]
    [InlineData("claims: { aud: https://other.example }", 401, "", "issued for another audience than this API (aud is https://api.brackwater.example, and https://other.example is expected)")]
    [InlineData("permissions: [Vehicles.Read.All]", 403, "", "the token lacks something listed under permissions: (lacks Vehicles.Read.All)")]
    public async Task What_the_token_itself_shows_is_taken_into_account(string line, int status, string says, string cause)
    {
        using var job = new SignInJob(_cloud.Address, Client + "\n" + line, get: $"/odd/refuse?status={status}&says={says}");
        ShouldSay((await job.RunAsync()).ShouldEndWith(5), cause);
    }

    [Fact]
    public async Task A_persons_token_where_an_applications_is_needed()
    {
        using var job = new SignInJob(_cloud.Address, Client.Replace("client_credentials", "password") + "\nusername: night-clerk\npassword: env:PERSON", get: "/odd/refuse?status=403&says=an%20application%20role%20is%20needed");
        job.Variables["PERSON"] = "not-a-real-password";
        ShouldSay((await job.RunAsync()).ShouldEndWith(5), "the token belongs to a person");
    }

    [Fact]
    public async Task No_identity_where_one_is_needed()
    {
        using var job = new SignInJob(_cloud.Address, "grant: none", get: "/me");
        ShouldSay((await job.RunAsync()).ShouldEndWith(5), "the API requires a token, and none was sent", "name an identity: for the API");
    }

    [Fact]
    public async Task Https_asked_of_a_plain_port_and_the_other_way_round()
    {
        using var plain = new SignInJob(_cloud.Address.Replace("http:", "https:"), Client);
        ShouldSay((await plain.DoAsync(["token", "get", plain.Path])).ShouldEndWith(4), "the server speaks plain http at this port");
        using var secure = await StandIn.StartAsync("--tls-authority", plain["a.pem"]);
        plain.Write(secure.Address.Replace("https:", "http:"), Client);
        ShouldSay((await plain.DoAsync(["token", "get", plain.Path])).ShouldEndWith(4), "a server that expects https at this port also does this");
    }

    [Fact]
    public async Task A_proxy_that_is_not_there()
    {
        using var job = new SignInJob("https://login.brackwater.example", Client);
        job.Variables["HTTPS_PROXY"] = "http://127.0.0.1:9";
        ShouldSay((await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4), "the environment names a proxy");
    }

    private static void ShouldSay(Ended ended, params string[] texts)
    {
        foreach (var text in texts)
            ended.Error.ShouldContain(text);
        ended.Error.ShouldContain("next:");
        ended.Error.ShouldContain("request:");
        ended.Error.ShouldNotContain("   at ");
        ended.All.ShouldNotContain(Job.Secret);
    }
}
