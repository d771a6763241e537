using Cursiva.Core.Drafts;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Drafts;

/// <summary>What an address says about signing in, and where nobody is asked.</summary>
public sealed class SignInAdviceTests : IAsyncDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly List<string> _asked = [];
    private readonly IState _state;

    public SignInAdviceTests() => _state = SqliteState.Open(_folder["state.db"], TimeProvider.System);

    public async ValueTask DisposeAsync()
    {
        await _state.DisposeAsync();
        _folder.Dispose();
    }

    [Theory]
    [InlineData("Bearer resource_metadata=\"https://api.example/.well-known/oauth-protected-resource\"", "which https://login.example/ issues", "--issuer https://login.example --client-id ID --secret env:NAME --scope 'rows.read'", "https://api.example/.well-known/oauth-protected-resource https://login.example/.well-known/oauth-authorization-server")]
    [InlineData("Bearer scope=\"a b\"", "which https://login.example/ issues", "--scope 'a b'", "https://api.example/.well-known/oauth-protected-resource https://login.example/.well-known/oauth-authorization-server")]
    [InlineData("Bearer resource_metadata=\"https://evil.example/steal\"", "does not say who issues it", "--token-endpoint URL --client-id ID --secret env:NAME", "")]
    [InlineData("Bearer resource_metadata=\"file:///etc/passwd\"", "does not say who issues it", "--token-endpoint URL", "")]
    [InlineData("Basic realm=\"x\"", "a name and password (Basic)", "--header-from Authorization=env:NAME", "")]
    [InlineData("Signature realm=\"x\"", "the API requires Signature", "--header-from NAME=SOURCE", "")]
    [InlineData(null, "does not say how", "--header-from X-Api-Key=env:NAME", "")]
    public async Task A_challenge_leads_to_what_signing_in_takes(string? challenge, string cause, string next, string asked)
    {
        var told = await AdviseAsync(challenge, request => request.RequestUri!.Host == "api.example"
            ? FakeServer.Json("""{"resource":"https://api.example","authorization_servers":["https://login.example"],"scopes_supported":["rows.read"]}""")
            : FakeServer.Json("""{"issuer":"https://login.example","token_endpoint":"https://login.example/token"}"""));
        told.Cause!.ShouldContain(cause);
        told.Cause!.ShouldNotContain("cannot be read");
        told.NextStep!.ShouldContain(next);
        string.Join(' ', _asked).ShouldBe(asked);
    }

    [Fact]
    public async Task Metadata_that_names_no_safe_server_leads_nowhere()
    {
        var told = await AdviseAsync("Bearer", _ => FakeServer.Json("""{"authorization_servers":["http://login.example","javascript:x"]}"""));
        told.Cause.ShouldBe("the API requires an access token (Bearer), and does not say who issues it");
        _asked.Count.ShouldBe(1);
    }

    private async Task<Refusal> AdviseAsync(string? challenge, Func<HttpRequestMessage, HttpResponseMessage> answer)
    {
        var server = new FakeServer((request, _) =>
        {
            request.Headers.Authorization.ShouldBeNull();
            _asked.Add(request.RequestUri!.AbsoluteUri);
            return answer(request);
        });
        var services = SignInServices.Of(_state, new StateFolder(_folder.Path), new Disk(), new Redactor(), _ => null, _folder.Path, TimeProvider.System, () => 0, new SilentWatch(), new SilentWatch()) with { Senders = new HttpSenders(TimeProvider.System, _folder.Path, server) };
        var job = AskedJob.Read(AskedJob.Text(AskedAddress.TryParse("https://api.example/rows")!, new AskedSignIn(), ""), _folder.Path, DateTimeOffset.UnixEpoch);
        return await SignInAdvice.OfAsync(new Refusal(Outcome.ApiFailed, "refused") { Status = 401 }, challenge, job.Apis[AskedJob.Api], services, "cursiva call", CancellationToken.None);
    }
}
