namespace Cursiva.Cli.Tests;

/// <summary>A stand-in of ours proves little about a standard: the same commands against a certified authorization server.</summary>
public sealed class RealServerTests : IAsyncLifetime
{
    private const string Secret = "a secret: 100 % sure + sound";

    private readonly SignInJob _job = new("http://127.0.0.1:1", "grant: none");
    private RealServer _server = null!;

    public async ValueTask InitializeAsync()
    {
        await _job.CertificateAsync("ps256", "--kind", "rsa2048", "--subject", "CN=ps256");
        await _job.CertificateAsync("es256", "--kind", "p256", "--subject", "CN=es256");
        await _job.CertificateAsync("tls", "--kind", "p256", "--subject", "CN=tls");
        _job.Variables["CLIENT_SECRET"] = Secret;
        _server = await RealServer.StartAsync(_job.Folder);
    }

    public ValueTask DisposeAsync()
    {
        _server?.Dispose();
        _job.Dispose();
        return ValueTask.CompletedTask;
    }

    [Theory]
    [InlineData("basic:client", "secret: env:CLIENT_SECRET")]
    [InlineData("post", "secret: env:CLIENT_SECRET\nclient-auth: client_secret_post")]
    [InlineData("ps256", "private-key: { private: file:ps256.p12, key-id: key-7 }\nassertion: { algorithm: PS256 }")]
    [InlineData("es256", "private-key: { private: file:es256.pem }\nassertion: { x5c: true }")]
    [InlineData("tls", "client-auth: tls_client_auth\nprivate-key: { private: file:tls.p12 }")]
    public async Task A_client_signs_in_and_its_token_is_read(string client, string proof)
    {
        Identity($"grant: client_credentials\nclient-id: {client}\n{proof}\nscope: consignments.read\npermissions: [consignments.read]\nclaims: {{ aud: https://api.brackwater.example }}");
        (await _job.DoAsync(["token", "get", _job.Path])).ShouldEndWith(0).Out.ShouldContain("valid    for 10 min 00 s");
        var read = (await _job.DoAsync(["token", "read", "--job", _job.Path])).ShouldEndWith(0);
        read.Out.ShouldContain("valid, with a key of");
        read.Out.ShouldContain("ok      has consignments.read");
        read.Out.ShouldContain("an application's token");

        // The authorization server is not an API, so that the pull finds no rows there, and nothing else is wrong.
        var live = await _job.DoAsync(["check", _job.Path, "--live"]);
        live.Out.ShouldContain("obtained with client_credentials");
        live.Out.ShouldContain("failed   pull depots    rows");
        live.Out.ShouldContain("1 thing is wrong");
    }

    [Fact]
    public async Task A_wrong_secret_is_explained()
    {
        _job.Variables["CLIENT_SECRET"] = "another";
        Identity("grant: client_credentials\nclient-id: basic:client\nsecret: env:CLIENT_SECRET");
        var ended = (await _job.DoAsync(["token", "get", _job.Path])).ShouldEndWith(4);
        ended.Error.ShouldContain("invalid_client");
        ended.Error.ShouldContain("the secret is wrong");
    }

    [Fact]
    public async Task A_person_signs_in_by_code_the_token_is_replaced_explained_and_revoked()
    {
        Identity("grant: authorization_code\nclient-id: person\nscope: [openid, offline_access, consignments.read]\nauthorization-parameters: { prompt: consent }");
        (await _job.SignInAsync(BrowseAsync)).ShouldEndWith(0).Out.ShouldContain("The refresh token is stored");
        for (var i = 0; i < 3; i++)
            (await _job.DoAsync(["token", "get", _job.Path])).ShouldEndWith(0);
        (await _job.DoAsync(["token", "read", "--job", _job.Path])).ShouldEndWith(0).Out.ShouldContain("active");
        (await _job.DoAsync(["token", "revoke", _job.Path])).ShouldEndWith(0).Out.ShouldContain("Revoked and removed: the refresh token");
        (await _job.DoAsync(["token", "get", _job.Path])).ShouldEndWith(4).Error.ShouldContain("sign in once");
    }

    [Fact]
    public async Task A_token_that_another_program_used_is_refused_with_its_family()
    {
        Identity("grant: authorization_code\nclient-id: person\nscope: [openid, offline_access]\nauthorization-parameters: { prompt: consent }");
        (await _job.SignInAsync(BrowseAsync)).ShouldEndWith(0);
        var copy = _job["copy"];
        Directory.CreateDirectory(copy);
        foreach (var file in Directory.GetFiles(_job.State, "st*"))
            File.Copy(file, Path.Combine(copy, Path.GetFileName(file)));
        (await _job.DoAsync(["token", "get", _job.Path])).ShouldEndWith(0);
        (await _job.DoAsync(["token", "get", _job.Path, "--state", copy])).ShouldEndWith(4).Error.ShouldContain("invalid_grant");
        (await _job.DoAsync(["token", "get", _job.Path])).ShouldEndWith(4).Error.ShouldContain($"sign in once more: cursiva sign-in {_job.Path} ");
    }

    [Fact]
    public async Task A_person_signs_in_by_device_code()
    {
        Identity("grant: urn:ietf:params:oauth:grant-type:device_code\nclient-id: person\nscope: [openid, offline_access]\nauthorization-parameters: { prompt: consent }");
        (await _job.SignInAsync(_server.AgreeAsync)).ShouldEndWith(0).Out.ShouldContain("The refresh token is stored");
        (await _job.DoAsync(["token", "get", _job.Path])).ShouldEndWith(0);
    }

    private async Task<string> BrowseAsync(string address)
    {
        await _server.VisitAsync(await _server.AgreeAsync(address));
        return "";
    }

    private void Identity(string identity) => _job.Write(_server.Address, identity + "\nissuer: '{cloud}'\ntrust: authority.pem");
}
