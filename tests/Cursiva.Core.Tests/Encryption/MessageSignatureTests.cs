using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Encryption;

/// <summary>Signatures of HTTP messages: the known answers of RFC 9421 appendix B, every algorithm, and nothing that was touched.</summary>
public sealed class MessageSignatureTests
{
    private const string PssKey = """
        -----BEGIN PUBLIC KEY-----
        MIIBIjANBgkqhkiG9w0BAQEFAAOCAQ8AMIIBCgKCAQEAr4tmm3r20Wd/PbqvP1s2
        +QEtvpuRaV8Yq40gjUR8y2Rjxa6dpG2GXHbPfvMs8ct+Lh1GH45x28Rw3Ry53mm+
        oAXjyQ86OnDkZ5N8lYbggD4O3w6M6pAvLkhk95AndTrifbIFPNU8PPMO7OyrFAHq
        gDsznjPFmTOtCEcN2Z1FpWgchwuYLPL+Wokqltd11nqqzi+bJ9cvSKADYdUAAN5W
        Utzdpiy6LbTgSxP7ociU4Tn0g5I6aDZJ7A8Lzo0KSyZYoA485mqcO0GVAdVw9lq4
        aOT9v6d+nb4bnNkQVklLQ3fVAvJm+xdDOp9LCNCN48V2pnDOkFV6+U9nV5oyc6XI
        2wIDAQAB
        -----END PUBLIC KEY-----
        """;

    private const string CurveKey = """
        -----BEGIN PUBLIC KEY-----
        MFkwEwYHKoZIzj0CAQYIKoZIzj0DAQcDQgAEqIVYZVLCrPZHGHjP17CTW0/+D9Lf
        w0EkjqF7xB4FivAxzic30tMM4GF+hR6Dxh71Z50VGGdldkkDXZCnTNnoXQ==
        -----END PUBLIC KEY-----
        """;

    private const string SharedKey = "uzvJfB4u3N0Jy4T7NZ75MDVcr8zSTInedJtkgcu46YW4XByzNJjxBdtjUkdJPBtbmHhIDi6pcl8jsasjlTMtDQ==";

    private static readonly DateTimeOffset s_then = DateTimeOffset.FromUnixTimeSeconds(1_618_884_473);

    private static readonly Dictionary<string, string> s_request = new()
    {
        ["@method"] = "POST",
        ["@authority"] = "example.com",
        ["@path"] = "/foo",
        ["@query"] = "?param=Value&Pet=dog",
        ["@query-param"] = "dog",
        ["date"] = "Tue, 20 Apr 2021 02:07:55 GMT",
        ["content-type"] = "application/json",
        ["content-length"] = "18",
        ["content-digest"] = "sha-512=:WZDPaVn/7XgHaAy8pmojAkGWoRx2UFChF41A2svX+TaPm+AbwAgBWnrIiYllu7BNNyealdVLvRwEmTHWXvJwew==:",
    };

    private static readonly Dictionary<string, string> s_answer = new()
    {
        ["@status"] = "200",
        ["content-type"] = "application/json",
        ["content-digest"] = "sha-512=:mEWXIS7MaLRuGgxOBdODa3xqM1XdEvxoYhvlCFJ41QJgJc4GTsPp29l5oGX69wWdXymyU0rjJuahq4l5aGgfLQ==:",
        ["content-length"] = "23",
    };

    [Fact]
    public void The_known_answers_of_the_standard_are_verified()
    {
        // B.2.1, a signature that covers nothing.
        Verify(PssKey, "test-key-rsa-pss", "sig-b21=();created=1618884473;keyid=\"test-key-rsa-pss\";nonce=\"b3k2pp5k7z-50gnwp.yemd\"", "sig-b21=:d2pmTvmbncD3xQm8E9ZV2828BjQWGgiwAaw5bAkgibUopemLJcWDy/lkbbHAve4cRAtx31Iq786U7it++wgGxbtRxf8Udx7zFZsckzXaJMkA7ChG52eSkFxykJeNqsrWH5S+oxNFlD4dzVuwe8DhTSja8xxbR/Z2cOGdCbzR72rgFWhzx2VjBqJzsPLMIQKhO4DGezXehhWwE56YCE+O6c0mKZsfxVrogUvA4HELjVKWmAvtl6UnCh8jYzuVG5WSb/QEVPnP5TmcAnLH1g+s++v6d4s8m0gCw1fV5/SITLq9mhho8K3+7EPYTU8IU1bLhdxO5Nyt8C8ssinQ98Xw9Q==:", s_request);

        // B.2.2, some of the request, and one parameter of its query.
        Verify(PssKey, "test-key-rsa-pss", "sig-b22=(\"@authority\" \"content-digest\" \"@query-param\";name=\"Pet\");created=1618884473;keyid=\"test-key-rsa-pss\";tag=\"header-example\"", "sig-b22=:LjbtqUbfmvjj5C5kr1Ugj4PmLYvx9wVjZvD9GsTT4F7GrcQEdJzgI9qHxICagShLRiLMlAJjtq6N4CDfKtjvuJyE5qH7KT8UCMkSowOB4+ECxCmT8rtAmj/0PIXxi0A0nxKyB09RNrCQibbUjsLS/2YyFYXEu4TRJQzRw1rLEuEfY17SARYhpTlaqwZVtR8NV7+4UKkjqpcAoFqWFQh62s7Cl+H2fjBSpqfZUJcsIk4N6wiKYd4je2U/lankenQ99PZfB4jY3I5rSV2DSBVkSFsURIjYErOs0tFTQosMTAoxk//0RoKUqiYY8Bh0aaUEb0rQl3/XaVe4bXTugEjHSw==:", s_request);

        // B.2.3, all of it.
        Verify(PssKey, "test-key-rsa-pss", "sig-b23=(\"date\" \"@method\" \"@path\" \"@query\" \"@authority\" \"content-type\" \"content-digest\" \"content-length\");created=1618884473;keyid=\"test-key-rsa-pss\"", "sig-b23=:bbN8oArOxYoyylQQUU6QYwrTuaxLwjAC9fbY2F6SVWvh0yBiMIRGOnMYwZ/5MR6fb0Kh1rIRASVxFkeGt683+qRpRRU5p2voTp768ZrCUb38K0fUxN0O0iC59DzYx8DFll5GmydPxSmme9v6ULbMFkl+V5B1TP/yPViV7KsLNmvKiLJH1pFkh/aYA2HXXZzNBXmIkoQoLd7YfW91kE9o/CCoC1xMy7JA1ipwvKvfrs65ldmlu9bpG6A9BmzhuzF8Eim5f8ui9eH8LZH896+QIF61ka39VBrohr9iyMUJpvRX2Zbhl5ZJzSRxpJyoEZAFL2FUo5fTIztsDZKEgM4cUA==:", s_request);

        // B.2.4, an answer.
        Verify(CurveKey, "test-key-ecc-p256", "sig-b24=(\"@status\" \"content-type\" \"content-digest\" \"content-length\");created=1618884473;keyid=\"test-key-ecc-p256\"", "sig-b24=:wNmSUAhwb5LxtOtOpNa6W5xj067m5hFrj0XQ4fvpaCLx0NKocgPquLgyahnzDnDAUy5eCdlYUEkLIj+32oiasw==:", s_answer);

        // B.2.5, a shared key.
        Verify(SharedKey, "test-shared-secret", "sig-b25=(\"date\" \"@authority\" \"content-type\");created=1618884473;keyid=\"test-shared-secret\"", "sig-b25=:pxcQw6G3AjtMBQjwo8XzkZf/bws5LelbaMk5rGIGtE8=:", s_request);
        MessageSignature.CheckDigest(s_answer["content-digest"], """{"message": "good dog"}"""u8);
        MessageSignature.CheckDigest(s_request["content-digest"], """{"hello": "world"}"""u8);
        Should.Throw<PayloadException>(() => MessageSignature.CheckDigest(s_request["content-digest"], """{"hello": "World"}"""u8)).Message.ShouldContain("changed on the way");
        MessageSignature.CheckDigest(MessageSignature.DigestOf("x"u8), "x"u8);
    }

    // B.2.6: .NET has no Ed25519, and no mathematics of our own takes its place.
    [Fact]
    public void A_signature_by_an_algorithm_that_is_not_here_is_refused_by_its_name()
    {
        const string Input = "sig-b26=(\"date\" \"@method\" \"@path\" \"@authority\" \"content-type\" \"content-length\");created=1618884473;keyid=\"test-key-ed25519\";alg=\"ed25519\"";
        Should.Throw<PayloadException>(() => MessageSignature.Verify(Input, "sig-b26=:AAAA:", ExchangeKeys.Read(Encoding.ASCII.GetBytes(CurveKey)), [], Of(s_request), s_then, s_then)).Message.ShouldContain("ed25519");
    }

    public static TheoryData<string> Algorithms => [.. Ciphers.OfSignedMessages];

    [Theory]
    [MemberData(nameof(Algorithms))]
    public void What_was_signed_is_verified_and_touched_in_nothing(string algorithm)
    {
        using var key = KeyFor(algorithm);
        string[] covered = ["@method", "@path", "content-digest"];
        var (input, signature) = MessageSignature.Sign(covered, key, algorithm, s_then, Of(s_request));
        MessageSignature.Verify(input, signature, [key], covered, Of(s_request), s_then, s_then).ShouldBe(key);
        foreach (var name in covered)
            Refused(input, signature, key, new(s_request) { [name] = s_request[name] + "x" });
        var bytes = Convert.FromBase64String(signature.Split(':')[1]);
        for (var bit = 0; bit < bytes.Length * 8; bit++)
        {
            bytes[bit / 8] ^= (byte)(1 << (bit % 8));
            Refused(input, $"cursiva=:{Convert.ToBase64String(bytes)}:", key, s_request);
            bytes[bit / 8] ^= (byte)(1 << (bit % 8));
        }

        Refused(input.Replace("1618884473", "1618884474"), signature, key, s_request);
        using var other = KeyFor(algorithm);
        Refused(input, signature, other, s_request);
    }

    [Fact]
    public void A_signature_must_cover_enough_and_be_of_now()
    {
        using var key = KeyFor("ecdsa-p256-sha256");
        var (input, signature) = MessageSignature.Sign(["@method"], key, null, s_then, Of(s_request));
        Should.Throw<PayloadException>(() => MessageSignature.Verify(input, signature, [key], ["content-digest"], Of(s_request), s_then, s_then)).Message.ShouldContain("does not cover content-digest");
        Should.Throw<PayloadException>(() => MessageSignature.Verify(input, signature, [key], [], Of(s_request), s_then.AddMinutes(6), s_then.AddMinutes(6))).Message.ShouldContain("belongs to another message");
        MessageSignature.Verify(input, signature, [key], [], Of(s_request), s_then.AddMinutes(4), s_then.AddMinutes(4)).ShouldBe(key);
        Should.Throw<PayloadException>(() => MessageSignature.Verify(null, signature, [key], [], Of(s_request), s_then, s_then)).Message.ShouldContain("no Signature-Input");
        Should.Throw<PayloadException>(() => MessageSignature.Verify(input.Replace("cursiva=", "other="), signature, [key], [], Of(s_request), s_then, s_then)).Message.ShouldContain("no 'other'");
        Should.Throw<PayloadException>(() => MessageSignature.Verify(input, signature, [key], [], (_, _) => null, s_then, s_then)).Message.ShouldContain("the message has no");
        Should.Throw<PayloadException>(() => MessageSignature.Verify("cursiva=(\"@method\"", signature, [key], [], Of(s_request), s_then, s_then)).Message.ShouldContain("no end");
        using var weak = new ExchangeKey { Rsa = RSA.Create(2048), IsPrivate = true };
        Should.Throw<PayloadException>(() => MessageSignature.Sign(["@method"], weak, "hmac-sha256", s_then, Of(s_request))).Message.ShouldContain("is not for a private RSA key");
    }

    private static void Verify(string key, string id, string input, string signature, Dictionary<string, string> message)
    {
        var read = ExchangeKeys.Read(Encoding.ASCII.GetBytes(key));
        var covered = message.Keys.Where(name => name != "@query-param" && input.Contains($"\"{name}\"", StringComparison.Ordinal)).ToList();
        MessageSignature.Verify(input, signature, [read[0].As(id)], covered, Of(message), s_then, s_then).Id.ShouldBe(id);
        foreach (var name in covered)
            Should.Throw<PayloadException>(() => MessageSignature.Verify(input, signature, [read[0].As(id)], [], Of(new(message) { [name] = "other" }), s_then, s_then));
    }

    private static void Refused(string input, string signature, ExchangeKey key, Dictionary<string, string> message) =>
        Should.Throw<PayloadException>(() => MessageSignature.Verify(input, signature, [key], [], Of(message), s_then, s_then));

    private static Func<string, string, string?> Of(Dictionary<string, string> message) => (name, _) => message.GetValueOrDefault(name);

    private static ExchangeKey KeyFor(string algorithm) => algorithm switch
    {
        "hmac-sha256" => new ExchangeKey { Secret = RandomNumberGenerator.GetBytes(32), IsPrivate = true },
        "ecdsa-p256-sha256" => new ExchangeKey { Curve = ECDsa.Create(ECCurve.NamedCurves.nistP256), IsPrivate = true },
        "ecdsa-p384-sha384" => new ExchangeKey { Curve = ECDsa.Create(ECCurve.NamedCurves.nistP384), IsPrivate = true },
        _ => new ExchangeKey { Rsa = RSA.Create(2048), IsPrivate = true },
    };
}
