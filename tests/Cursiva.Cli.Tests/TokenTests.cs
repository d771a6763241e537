using System.Text.Json;

namespace Cursiva.Cli.Tests;

public sealed class TokenTests : IAsyncLifetime
{
    private const string Client = "grant: client_credentials\nissuer: '{cloud}'\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET";

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task What_was_obtained_is_shown_masked_and_revealed_on_demand()
    {
        using var job = new SignInJob(_cloud.Address, Client);
        var shown = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);
        shown.Out.ShouldContain("masked; --reveal prints it");
        var revealed = (await job.DoAsync(["token", "get", job.Path, "--reveal"])).ShouldEndWith(0);
        revealed.Out.Trim().Split('.').Length.ShouldBe(3);
        revealed.Out.Trim().ShouldStartWith("eyJ");
        foreach (var part in revealed.Out.Trim().Split('.'))
            shown.All.ShouldNotContain(part);
        using var json = JsonDocument.Parse((await job.DoAsync(["token", "get", job.Path, "--format", "json"])).ShouldEndWith(0).Out);
        json.RootElement.GetProperty("lifetime-seconds").GetDouble().ShouldBe(3600);
    }

    [Fact]
    public async Task A_token_is_explained_claim_by_claim_and_its_signature_checked()
    {
        using var job = new SignInJob(_cloud.Address, Client);
        var token = (await job.DoAsync(["token", "get", job.Path, "--reveal"])).ShouldEndWith(0).Out.Trim();
        var read = (await job.DoAsync(["token", "read"], input: "Bearer " + token)).ShouldEndWith(0);
        foreach (var text in new[] { "the API it is meant for", "valid until", ", in ", "an application's token", "valid, with a key of", "it is valid for another" })
            read.Out.ShouldContain(text);
        read.All.ShouldNotContain(token);

        // Another claim under the same signature.
        var parts = token.Split('.');
        var forged = $"{parts[0]}.{Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes($$"""{"iss":"{{_cloud.Address}}","sub":"admin"}""")).TrimEnd('=').Replace('+', '-').Replace('/', '_')}.{parts[2]}";
        (await job.DoAsync(["token", "read", forged])).ShouldEndWith(4).Out.ShouldContain("not valid");
        (await job.DoAsync(["token", "read", forged, "--offline"])).ShouldEndWith(0).Out.ShouldContain("not checked, as requested");
    }

    [Fact]
    public async Task A_token_is_compared_with_the_job_and_the_line_to_change_is_named()
    {
        using var job = new SignInJob(_cloud.Address, Client + "\npermissions: [consignments.export, depots.manage]\nclaims: { aud: https://other.example, tenant: brackwater }");
        var read = (await job.DoAsync(["token", "read", "--job", job.Path])).ShouldEndWith(4);
        foreach (var text in new[] { "ok      has consignments.export", "failed  lacks depots.manage", "failed  aud is https://api.brackwater.example, and https://other.example is expected", "ok      tenant is brackwater", "or change claims: (" + job.Path + ":11:", "or change permissions: (" + job.Path + ":10:", "beyond what the job declares: consignments.read" })
            read.Out.ShouldContain(text);
        using var json = JsonDocument.Parse((await job.DoAsync(["token", "read", "--job", job.Path, "--format", "json"])).ShouldEndWith(4).Out);
        json.RootElement.GetProperty("holds").GetBoolean().ShouldBeFalse();
        (await job.DoAsync(["token", "read", "--job", job.Path, "--identity", "nobody"])).ShouldEndWith(2).Error.ShouldContain("name one of app");
    }

    [Theory]
    [InlineData("nonsense", "the token is opaque")]
    [InlineData("eyJhbGciOiJub25lIn0.e30", "the token is opaque")]
    [InlineData("", "no token was given")]
    public async Task What_is_no_token_is_told(string token, string message)
    {
        using var job = new SignInJob(_cloud.Address, Client);
        (await job.DoAsync(["token", "read"], input: token)).ShouldEndWith(2).Error.ShouldContain(message);
    }

    [Fact]
    public async Task An_opaque_token_is_explained_by_the_server_and_revoked_there()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "opaque");
        using var job = new SignInJob(cloud.Address, Client);
        (await job.RunAsync()).ShouldEndWith(0);
        var read = (await job.DoAsync(["token", "read", "--job", job.Path])).ShouldEndWith(0);
        read.Out.ShouldContain("The token is opaque; this is what the server says about it:");
        read.Out.ShouldContain("whether it is valid now");
        (await job.DoAsync(["token", "revoke", job.Path])).ShouldEndWith(0).Out.ShouldContain("Revoked and removed: the access token");
        (await job.DoAsync(["token", "revoke", job.Path])).ShouldEndWith(0).Out.ShouldContain("nothing was revoked");
        (await job.DoAsync(["token", "read", "--job", job.Path], input: "at-unknown")).ShouldEndWith(4).Out.ShouldContain("false");
    }
}
