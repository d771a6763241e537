using System.Text;
using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Security;

/// <summary>Metadata, keys, tokens and browsers that are not what they should be.</summary>
public sealed class SignInGuardTests
{
    [Theory]
    [InlineData("https://login.example/token", true)]
    [InlineData("http://login.example/token", false)]
    [InlineData("http://127.0.0.1:8100/token", false)]
    [InlineData("file:///etc/passwd", false)]
    [InlineData("ftp://login.example/token", false)]
    public async Task Metadata_of_an_https_issuer_names_https_endpoints(string endpoint, bool accepted)
    {
        var watch = new SilentWatch();
        using var sender = new HttpSender(TimeProvider.System, new FakeServer((_, _) => FakeServer.Json($$"""{"issuer":"https://login.example","token_endpoint":"{{endpoint}}"}""")));
        var endpoints = new Endpoints(new DeclaredIdentity("app", new Place("job"), Grants.ClientCredentials) { Issuer = new Uri("https://login.example") }, sender, watch, new Redactor());
        if (accepted)
            (await endpoints.TokenAsync(default)).AbsoluteUri.ShouldBe(endpoint);
        else
            (await Should.ThrowAsync<RefusedException>(() => endpoints.TokenAsync(default))).Refusal.What.ShouldContain("as token_endpoint");
    }

    [Theory]
    [InlineData("""{"alg":"none"}""", "c2ln", "not signed")]
    [InlineData("""{"alg":"NONE"}""", "c2ln", "not signed")]
    [InlineData("""{"typ":"JWT"}""", "c2ln", "not signed")]
    [InlineData("""{"alg":"RS256"}""", "", "not signed")]
    [InlineData("""{"alg":"RS256","crit":["exp2","b64"]}""", "c2ln", "not understood: the token requires its reader to support exp2, b64")]
    [InlineData("""{"alg":"RS256","crit":7}""", "c2ln", "not understood")]
    public void A_token_that_is_not_signed_or_demands_the_unknown_does_not_hold(string header, string signature, string says)
    {
        var token = Jwt.TryRead($"{Base64UrlText.Write(Encoding.UTF8.GetBytes(header))}.{Base64UrlText.Write("{\"sub\":\"x\"}"u8)}.{signature}")!;
        var reading = TokenReading.Of(token, null, "not checked", null, null, TimeZoneInfo.Utc, DateTimeOffset.UnixEpoch);
        reading.Holds.ShouldBeFalse();
        reading.Signature.ShouldStartWith(says);
    }

    [Theory]
    [InlineData("""{"keys":[{"kty":"EC","crv":"P-999","x":"AA","y":"AA"}]}""")]
    [InlineData("""{"keys":[{"kty":"EC","crv":"P-256","x":"AA"}]}""")]
    [InlineData("""{"keys":[{"kty":"EC"}, 7, null, "x"]}""")]
    [InlineData("""{"keys":7}""")]
    public void A_key_set_with_keys_that_cannot_be_used_gives_no_verdict(string keys)
    {
        var token = Jwt.TryRead($"{Base64UrlText.Write("{\"alg\":\"ES256\"}"u8)}.{Base64UrlText.Write("{}"u8)}.{Base64UrlText.Write(new byte[64])}")!;
        TokenSignature.Check(token, JsonDocument.Parse(keys).RootElement).ShouldBeNull();
    }

    [Fact]
    public async Task The_listener_answers_others_politely_and_waits_for_its_own()
    {
        using var listener = LoopbackListener.Start(null);
        using var client = new HttpClient();
        var waiting = listener.WaitAsync("right", default);
        foreach (var (knock, status) in new[] { ("?error=access_denied", 400), ("?error=access_denied&state=wrong", 400), ("?code=x&state=wrong", 400), ("?code=x", 400), ("favicon.ico", 404) })
        {
            using var answer = await client.GetAsync(new Uri(listener.Address, knock));
            ((int)answer.StatusCode).ShouldBe(status, knock);
            waiting.IsCompleted.ShouldBeFalse(knock);
        }

        using (var answer = await client.GetAsync(new Uri(listener.Address, "?code=abc&state=right")))
            ((int)answer.StatusCode).ShouldBe(200);
        (await waiting).ShouldContain("code=abc");
    }
}
