using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Encrypted and signed payloads by hand, against openssl and another implementation of JWE and JWS, both ways.</summary>
public sealed class PayloadTests : IDisposable
{
    private const string Declaration = """{"number":"BFX-00000001","weight":10.50,"place":"Møllehavn"}""";
    private readonly TemporaryFolder _folder = new();

    public PayloadTests()
    {
        using var rsa = RSA.Create(2048);
        using var curve = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        File.WriteAllText(_folder["own.pem"], rsa.ExportPkcs8PrivateKeyPem());
        File.WriteAllText(_folder["open.pem"], rsa.ExportSubjectPublicKeyInfoPem());
        File.WriteAllText(_folder["curve.pem"], curve.ExportPkcs8PrivateKeyPem());
        File.WriteAllText(_folder["curve-open.pem"], curve.ExportSubjectPublicKeyInfoPem());
        File.WriteAllText(_folder["declaration.json"], Declaration);
    }

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("RSA-OAEP", "A128CBC-HS256")]
    [InlineData("RSA-OAEP-256", "A256GCM")]
    [InlineData("RSA-OAEP-256", "A256CBC-HS512")]
    public async Task Another_implementation_of_JWE_opens_and_is_opened(string algorithm, string content)
    {
        var sealedText = (await DoAsync("payload", "encrypt", "declaration.json", "--key", "file:open.pem", "--algorithm", algorithm, "--content", content, "--result")).ShouldEndWith(0).Out;
        (await JoseAsync(sealedText, "open", "own.pem", algorithm)).ShouldBe(Declaration);
        File.WriteAllText(_folder["theirs.txt"], await JoseAsync(Declaration, "seal", "open.pem", algorithm, content));
        (await DoAsync("payload", "decrypt", "theirs.txt", "--key", "file:own.pem", "--result")).ShouldEndWith(0).Out.Trim().ShouldBe(Declaration);
    }

    [Theory]
    [InlineData("own.pem", "open.pem", "RS256")]
    [InlineData("own.pem", "open.pem", "PS384")]
    [InlineData("curve.pem", "curve-open.pem", "ES256")]
    public async Task Another_implementation_of_JWS_verifies_and_is_verified(string own, string open, string algorithm)
    {
        var signed = (await DoAsync("payload", "sign", "declaration.json", "--key", $"file:{own}", "--algorithm", algorithm, "--result")).ShouldEndWith(0).Out;
        (await JoseAsync(signed, "verify", open, algorithm)).ShouldBe(Declaration);
        File.WriteAllText(_folder["theirs.txt"], await JoseAsync(Declaration, "sign", own, algorithm));
        (await DoAsync("payload", "verify", "theirs.txt", "--key", $"file:{open}", "--result")).ShouldEndWith(0).Out.Trim().ShouldBe(Declaration);
        File.WriteAllText(_folder["detached.txt"], (await DoAsync("payload", "sign", "declaration.json", "--key", $"file:{own}", "--detached", "--result")).Out);
        (await DoAsync("payload", "verify", "detached.txt", "--key", $"file:{open}", "--payload", "declaration.json")).ShouldEndWith(0).Out.ShouldContain("valid, ");
    }

    [Theory]
    [InlineData("ecb", "-aes-256-ecb", 0)]
    [InlineData("cbc", "-aes-256-cbc", 16)]
    public async Task The_plain_parts_of_older_schemes_are_those_of_openssl(string mode, string cipher, int vector)
    {
        Tools.Require("openssl");
        var box = JsonDocument.Parse((await DoAsync("payload", "encrypt", "declaration.json", "--key", "file:open.pem", "--algorithm", "RSA1_5", "--plain", mode, "--result")).ShouldEndWith(0).Out).RootElement;
        File.WriteAllBytes(_folder["wrapped"], box.GetProperty("wrapped-key").GetBytesFromBase64());
        (await App.RunAsync("openssl", ["pkeyutl", "-decrypt", "-inkey", "own.pem", "-in", "wrapped", "-out", "key"], _folder.Path, [])).ShouldEndWith(0);
        var (key, data) = (Convert.ToHexString(File.ReadAllBytes(_folder["key"])), box.GetProperty("data").GetBytesFromBase64());
        File.WriteAllBytes(_folder["cipher"], data[vector..]);
        string[] iv = vector == 0 ? [] : ["-iv", Convert.ToHexString(data[..vector])];
        (await App.RunAsync("openssl", ["enc", "-d", cipher, "-K", key, .. iv, "-in", "cipher"], _folder.Path, [])).ShouldEndWith(0).Out.ShouldBe(Declaration);

        (await App.RunAsync("openssl", ["enc", cipher, "-K", key, .. iv, "-in", "declaration.json", "-out", "theirs"], _folder.Path, [])).ShouldEndWith(0);
        File.WriteAllText(_folder["theirs.json"], JsonSerializer.Serialize(new Dictionary<string, string> { ["wrapped-key"] = box.GetProperty("wrapped-key").GetString()!, ["data"] = Convert.ToBase64String([.. data[..vector], .. File.ReadAllBytes(_folder["theirs"])]) }));
        (await DoAsync("payload", "decrypt", "theirs.json", "--key", "file:own.pem", "--algorithm", "RSA1_5", "--plain", mode, "--result")).ShouldEndWith(0).Out.Trim().ShouldBe(Declaration);
    }

    [Fact]
    public async Task Every_step_is_shown_and_no_key_without_asking()
    {
        var shown = (await DoAsync("payload", "encrypt", "declaration.json", "--key", "file:open.pem")).ShouldEndWith(0);
        shown.Out.ShouldContain("wrapped key  the content key under the public RSA key of 2048 bits, with RSA-OAEP-256");
        shown.Out.ShouldNotContain("BFX-00000001");
        shown.Error.ShouldContain("--reveal");
        (await DoAsync("payload", "encrypt", "declaration.json", "--key", "file:open.pem", "--reveal")).Out.ShouldContain("BFX-00000001");
        var steps = JsonDocument.Parse((await DoAsync("payload", "sign", "declaration.json", "--key", "file:curve.pem", "--format", "json")).Out).RootElement;
        steps.EnumerateArray().Select(step => step.GetProperty("name").GetString()).ShouldBe(["payload", "header", "signing input", "signature", "text"]);
    }

    [Theory]
    [InlineData("decrypt|declaration.json|--key|file:own.pem", 8, "the compact form has five parts")]
    [InlineData("verify|declaration.json|--key|file:open.pem", 8, "not a JWS in a JSON form")]
    [InlineData("encrypt|declaration.json|--key|file:declaration.json", 8, "the key cannot be read")]
    [InlineData("encrypt|nothing.json|--key|file:open.pem", 2, "cannot be read")]
    [InlineData("encrypt|declaration.json|--key|hunter2", 2, "--key is not a secret source")]
    [InlineData("sign|declaration.json|--key|file:open.pem", 8, "signing needs a private key")]
    [InlineData("decrypt|box.json|--key|file:own.pem|--plain|cbc", 8, "not JSON with the members")]
    public async Task What_does_not_go_is_told(string line, int code, string said)
    {
        File.WriteAllText(_folder["box.json"], "[]");
        var ended = (await DoAsync(["payload", .. line.Split('|')])).ShouldEndWith(code);
        ended.Error.ShouldContain(said);
        ended.Error.ShouldNotContain("hunter2");
    }

    [Fact]
    public async Task A_document_is_compared_with_its_schema()
    {
        File.WriteAllText(_folder["schema.json"], """{"$schema":"https://json-schema.org/draft/2020-12/schema","type":"object","required":["number","date"],"properties":{"weight":{"type":"integer"}}}""");
        var wrong = (await DoAsync("payload", "validate", "declaration.json", "--schema", "schema.json")).ShouldEndWith(8).Out;
        wrong.ShouldContain("/weight");
        wrong.ShouldContain("date");
        File.WriteAllText(_folder["declaration.json"], """{"number":"1","date":"2026-03-02","weight":1}""");
        (await DoAsync("payload", "validate", "declaration.json", "--schema", "schema.json")).ShouldEndWith(0).Out.ShouldContain("matches its schema");
    }

    private Task<Ended> DoAsync(params string[] arguments) => App.RunAsync(App.Cursiva, arguments, _folder.Path, [("CURSIVA_STATE", _folder["state"])]);

    private async Task<string> JoseAsync(string input, params string[] arguments)
    {
        Tools.Require("node");
        var home = Path.Combine(App.Root, "tests", "real");
        Assert.SkipUnless(Directory.Exists(Path.Combine(home, "node_modules", "jose")), "the other implementation is not installed; npm ci in tests/real installs it");
        return (await App.RunAsync("node", [Path.Combine(home, "jose.mjs"), .. arguments], _folder.Path, [], input: input)).ShouldEndWith(0).Out;
    }
}
