using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;

namespace Cursiva.Core.Tests.Writes;

/// <summary>One step of a write may be encrypted or signed otherwise than the rest of its API.</summary>
public sealed class StepExchangeTests : IAsyncDisposable
{
    private const string Two = """
        note: { put: "/notes/{row.id}", body: { text: "{row.name}" }KEYS }
        create: { put: "/documents/{row.id}", body: { title: "{row.name}" } }
        """;

    private readonly WriteFixture _at = new();
    private readonly RSA _office = RSA.Create(2048);
    private readonly ECDsa _own = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    public StepExchangeTests()
    {
        _at.Write("office.pem", _office.ExportPkcs8PrivateKeyPem());
        _at.Write("own.pem", _own.ExportPkcs8PrivateKeyPem());
        _at.Office.Instead = _ => new HttpResponseMessage(System.Net.HttpStatusCode.NoContent);
    }

    public async ValueTask DisposeAsync()
    {
        await _at.DisposeAsync();
        _office.Dispose();
        _own.Dispose();
    }

    [Fact]
    public async Task A_step_is_encrypted_where_its_API_is_in_the_clear()
    {
        await SendAsync(", encryption: { cipher: JWE, key: 'file:office.pem', request-at: /data }", "base: https://office.example/v2");
        var sealedText = Body("/notes/1").Split('"')[3];
        Open(sealedText).ShouldBe("""{"text":"one"}""");
        Body("/documents/1").ShouldBe("""{"title":"one"}""");
    }

    [Fact]
    public async Task A_step_is_in_the_clear_where_its_API_encrypts()
    {
        await SendAsync(", encryption: { cipher: none }", "base: https://office.example/v2, encryption: { cipher: JWE, key: 'file:office.pem', request-at: /data }");
        Body("/notes/1").ShouldBe("""{"text":"one"}""");
        Open(Body("/documents/1").Split('"')[3]).ShouldBe("""{"title":"one"}""");
    }

    [Fact]
    public async Task One_step_is_signed_and_the_other_is_not()
    {
        await SendAsync(", signatures: { requests: { form: jws-detached, key: 'file:own.pem', header: X-Signed } }", "base: https://office.example/v2");
        var (signed, plain) = (_at.Office.Sent.Single(request => request.RequestUri!.AbsolutePath.EndsWith("/notes/1")), _at.Office.Sent.Single(request => request.RequestUri!.AbsolutePath.EndsWith("/documents/1")));
        plain.Headers.Contains("X-Signed").ShouldBeFalse();
        using var key = new ExchangeKey { Curve = _own };
        SignedText.Verify(signed.Headers.GetValues("X-Signed").Single(), [key], Encoding.UTF8.GetBytes(Body("/notes/1"))).Payload.ShouldNotBeEmpty();
    }

    [Fact]
    public void A_step_without_a_key_is_a_mistake_and_check_tells_what_is_encrypted()
    {
        Should.Throw<JobMistakesException>(() => _at.Read(Two.Replace("KEYS", ", encryption: { cipher: AES-256-ECB }"), "", "base: https://office.example/v2")).Mistakes[0].Found.ShouldContain("session key");
        _at.Read(Two.Replace("KEYS", ", encryption: { cipher: JWE, key: 'file:office.pem' }"), "", "base: https://office.example/v2").Writes[0].Steps[0].Encryption!.Cipher.ShouldBe(Ciphers.Jwe);
    }

    private async Task SendAsync(string keys, string api) =>
        (await _at.RunAsync(Two.Replace("KEYS", keys), """[{"id":1,"name":"one"}]""", api: api))!.Phase.ShouldBe(LedgerPhase.Sent, string.Join("; ", _at.Told));

    private string Body(string path) => _at.Office.Requests.Single(request => request.Contains(path, StringComparison.Ordinal)).Split(' ', 3)[2];

    private string Open(string text)
    {
        using var key = new ExchangeKey { Rsa = _office, IsPrivate = true };
        return Encoding.UTF8.GetString(SealedText.Decrypt(text, [key]));
    }
}
