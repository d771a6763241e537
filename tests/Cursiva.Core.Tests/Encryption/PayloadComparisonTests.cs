using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Encryption;

/// <summary>One's own output, wrong in each way that programs get it wrong: the step and the mistake are named.</summary>
public sealed class PayloadComparisonTests
{
    private const string Declaration = """{"number":"BFX-00000001","weight":10.50,"place":"Møllehavn"}""";

    private static readonly byte[] s_key = SHA256.HashData("a key of the tests"u8);

    private static readonly byte[] s_plain = Encoding.UTF8.GetBytes(Declaration);

    public static TheoryData<string, string, string, string> Mistakes => new()
    {
        { Ciphers.Ecb, "right", "", "" },
        { Ciphers.Cbc, "right", "", "" },
        { Ciphers.Gcm, "right", "", "" },
        { Ciphers.Ecb, "zeros", "padding", "zero bytes, not PKCS #7" },
        { Ciphers.Cbc, "zeros", "padding", "zero bytes, not PKCS #7" },
        { Ciphers.Ecb, "counted", "padding", "ANSI X9.23" },
        { Ciphers.Cbc, "random", "padding", "ISO 10126" },
        { Ciphers.Ecb, "spaces", "padding", "spaces, not PKCS #7" },
        { Ciphers.Ecb, "cbc", "mode", "in CBC mode with the vector before" },
        { Ciphers.Cbc, "ecb", "mode", "in ECB mode" },
        { Ciphers.Cbc, "zero vector", "mode", "a vector of zeros, which is not sent" },
        { Ciphers.Cbc, "key as vector", "mode", "beginning of the key as the vector" },
        { Ciphers.Cbc, "vector last", "mode", "vector after the cipher text" },
        { Ciphers.Cbc, "gcm", "mode", "in GCM mode" },
        { Ciphers.Gcm, "tag first", "mode", "tag before the cipher text" },
        { Ciphers.Gcm, "cbc", "mode", "in CBC mode" },
        { Ciphers.Ecb, "first half", "key", "first half of the key" },
        { Ciphers.Cbc, "second half", "key", "second half of the key" },
        { Ciphers.Ecb, "key as base64", "key", "base64 text of the key" },
        { Ciphers.Cbc, "key as hex", "key", "hex text of the key" },
        { Ciphers.Ecb, "key hashed", "key", "SHA-256 of the key" },
        { Ciphers.Ecb, "other key", "cipher text", "encrypted under another key" },
        { Ciphers.Ecb, "cut", "cipher text", "not a multiple of 16" },
        { Ciphers.Ecb, "base64url", "base64", "base64url" },
        { Ciphers.Ecb, "hex", "base64", "it is hex" },
        { Ciphers.Ecb, "lines", "base64", "line breaks, every 64 characters" },
        { Ciphers.Ecb, "twice", "base64", "as base64 twice" },
        { Ciphers.Ecb, "percent", "base64", "percent-encoded" },
        { Ciphers.Ecb, "no padding of base64", "base64", "padding with = is missing" },
        { Ciphers.Ecb, "other place", "envelope", "case-sensitive: write /data" },
        { Ciphers.Ecb, "no place", "envelope", "it has /payload" },
        { Ciphers.Ecb, "base64 before", "plain text", "encoded as base64 before" },
        { Ciphers.Ecb, "line break", "plain text", "it ends with a line break" },
        { Ciphers.Ecb, "order", "plain text", "are in another order" },
        { Ciphers.Ecb, "spaced", "plain text", "other white space" },
        { Ciphers.Ecb, "escaped", "plain text", "escaped or written differently" },
        { Ciphers.Ecb, "mark", "plain text", "byte order mark" },
        { Ciphers.Ecb, "other value", "plain text", "/weight is another value" },
        { Ciphers.Ecb, "other kind", "plain text", "/weight is a text, where the right one has a number" },
        { Ciphers.Ecb, "member missing", "plain text", "it has no /place" },
    };

    [Theory]
    [MemberData(nameof(Mistakes))]
    public void The_first_step_that_differs_is_named(string cipher, string mistake, string step, string says)
    {
        using var key = new ExchangeKey { Secret = [.. s_key], IsPrivate = true };
        var declared = new BodyEncryption(cipher, null) { RequestAt = JsonPointer.TryParse("/data") };
        var compared = PayloadComparison.Encrypted(Own(cipher, mistake), s_plain, declared, key);
        compared.ShouldNotBeEmpty();
        if (step.Length == 0)
        {
            compared.ShouldAllBe(one => one.Agrees);
            compared[^1].Name.ShouldBe("plain text");
            return;
        }

        var first = compared.First(one => !one.Agrees);
        first.Name.ShouldBe(step, string.Join("; ", compared));
        first.Says.ShouldContain(says);
        compared.ShouldAllBe(one => !one.Says.Contains("Møllehavn", StringComparison.Ordinal) && !one.Says.Contains(Convert.ToBase64String(s_key), StringComparison.Ordinal));
    }

    [Fact]
    public void A_wrapped_key_is_compared_as_far_as_the_key_at_hand_lets()
    {
        using var rsa = RSA.Create(2048);
        using var open = new ExchangeKey { Rsa = RSA.Create(rsa.ExportParameters(false)) };
        using var own = new ExchangeKey { Rsa = RSA.Create(rsa.ExportParameters(true)), IsPrivate = true };
        var declared = new BodyEncryption(Ciphers.Cbc, null) { Algorithm = "RSA-OAEP", RequestAt = JsonPointer.TryParse("/data"), KeyAt = JsonPointer.TryParse("/key") };
        var right = Encoding.UTF8.GetString(SealedBody.Encrypt(s_plain, declared, open).Body);
        PayloadComparison.Encrypted(right, s_plain, declared, own).ShouldAllBe(step => step.Agrees);
        PayloadComparison.Encrypted(right, s_plain, declared, open)[^1].Says.ShouldContain("can be compared only with the private key");
        Differs(Encoding.UTF8.GetString(SealedBody.Encrypt(s_plain, declared with { Algorithm = "RSA1_5" }, open).Body), "it was wrapped with RSA1_5, not with RSA-OAEP");
        var texted = JsonNode.Parse(right)!;
        texted["key"] = Convert.ToBase64String(rsa.Encrypt(Encoding.ASCII.GetBytes(Convert.ToBase64String(s_key)), RSAEncryptionPadding.OaepSHA1));
        Differs(texted.ToJsonString(), "was encoded as base64 before it was wrapped");
        using var stranger = RSA.Create(2048);
        texted["key"] = Convert.ToBase64String(stranger.Encrypt(s_key, RSAEncryptionPadding.OaepSHA1));
        Differs(texted.ToJsonString(), "wrapped for another public key");

        void Differs(string text, string says) => PayloadComparison.Encrypted(text, s_plain, declared, own).First(step => !step.Agrees).Says.ShouldContain(says);
    }

    [Fact]
    public void A_JWE_is_compared_part_by_part()
    {
        using var key = new ExchangeKey { Secret = [.. s_key], IsPrivate = true };
        var declared = new BodyEncryption(Ciphers.Jwe, null);
        var right = SealedText.Encrypt(s_plain, key, KeyAlgorithm.Direct, ContentAlgorithm.A256Gcm);
        Compared(right).ShouldAllBe(step => step.Agrees);
        Differs(right[..right.LastIndexOf('.')], "form", "it has 4 parts");
        Differs(right + "==", "tag", "padded with =");
        Differs(SealedText.Encrypt(s_plain, new ExchangeKey { Secret = s_key[..16], IsPrivate = true }, KeyAlgorithm.Direct, ContentAlgorithm.A128Gcm), "header", "enc is 'A128GCM', and should be 'A256GCM'");
        Differs(ByHand([]), "content", "with nothing as additional data");
        Differs(ByHand("""{"alg":"dir","enc":"A256GCM"}"""u8.ToArray()), "content", "with the decoded header");
        using var other = new ExchangeKey { Secret = SHA256.HashData(s_key), IsPrivate = true };
        Differs(SealedText.Encrypt(s_plain, other, KeyAlgorithm.Direct, ContentAlgorithm.A256Gcm), "content", "does not open with this key");
        Differs(SealedText.Encrypt([.. s_plain, (byte)'\n'], key, KeyAlgorithm.Direct, ContentAlgorithm.A256Gcm), "plain text", "ends with a line break");

        IReadOnlyList<ComparedStep> Compared(string text) => PayloadComparison.Encrypted(text, s_plain, declared, key);
        void Differs(string text, string step, string says)
        {
            var first = Compared(text).First(one => !one.Agrees);
            (first.Name, first.Says.Contains(says, StringComparison.Ordinal)).ShouldBe((step, true), first.ToString());
        }

        static string ByHand(byte[] beside)
        {
            var (nonce, cipher, tag) = (new byte[12], new byte[s_plain.Length], new byte[16]);
            using var gcm = new AesGcm(s_key, 16);
            gcm.Encrypt(nonce, s_plain, cipher, tag, beside);
            string Url(ReadOnlySpan<byte> bytes) => System.Buffers.Text.Base64Url.EncodeToString(bytes);
            return $"{Url("""{"alg":"dir","enc":"A256GCM"}"""u8)}..{Url(nonce)}.{Url(cipher)}.{Url(tag)}";
        }
    }

    [Fact]
    public void A_JWS_is_compared_part_by_part()
    {
        using var curve = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        using var key = new ExchangeKey { Curve = ECDsa.Create(curve.ExportParameters(true)), IsPrivate = true };
        var right = SignedText.Sign(s_plain, key, "ES256");
        var parts = right.Split('.');
        string Url(ReadOnlySpan<byte> bytes) => System.Buffers.Text.Base64Url.EncodeToString(bytes);
        Compared(right).ShouldAllBe(step => step.Agrees);
        Compared(SignedText.Sign(s_plain, key, "ES256", isDetached: true)).ShouldAllBe(step => step.Agrees);
        Differs(right + "=", "signature", "padded with =");
        Differs($"{parts[0]}.{parts[1]}", "form", "has three");
        Differs(SignedText.Sign([.. s_plain, (byte)'\n'], key, "ES256"), "payload", "ends with a line break");
        Differs($"{parts[0]}.{parts[1]}.{Url(curve.SignData(Encoding.ASCII.GetBytes($"{parts[0]}.{parts[1]}"), HashAlgorithmName.SHA256, DSASignatureFormat.Rfc3279DerSequence))}", "signature", "in DER form");
        Differs($"{parts[0]}.{parts[1]}.{Url(curve.SignData(s_plain, HashAlgorithmName.SHA256))}", "signature", "over only the payload");
        using var other = new ExchangeKey { Curve = ECDsa.Create(ECCurve.NamedCurves.nistP256), IsPrivate = true };
        Differs(SignedText.Sign(s_plain, other, "ES256"), "signature", "made with another key");
        Differs(Url("""{"alg":"ES384"}"""u8) + right[right.IndexOf('.', StringComparison.Ordinal)..], "header", "alg is 'ES384'");

        IReadOnlyList<ComparedStep> Compared(string text) => SignatureComparison.Signed(text, s_plain, key, "ES256");
        void Differs(string text, string step, string says)
        {
            var first = Compared(text).First(one => !one.Agrees);
            (first.Name, first.Says.Contains(says, StringComparison.Ordinal)).ShouldBe((step, true), first.ToString());
        }
    }

    private static string Own(string cipher, string mistake)
    {
        var plain = mistake switch
        {
            "base64 before" => Encoding.ASCII.GetBytes(Convert.ToBase64String(s_plain)),
            "line break" => [.. s_plain, (byte)'\n'],
            "order" => """{"weight":10.50,"number":"BFX-00000001","place":"Møllehavn"}"""u8.ToArray(),
            "spaced" => """{ "number": "BFX-00000001", "weight": 10.50, "place": "Møllehavn" }"""u8.ToArray(),
            "escaped" => """{"number":"BFX-00000001","weight":10.50,"place":"M\u00f8llehavn"}"""u8.ToArray(),
            "mark" => [0xEF, 0xBB, 0xBF, .. s_plain],
            "other value" => """{"number":"BFX-00000001","weight":10.51,"place":"Møllehavn"}"""u8.ToArray(),
            "other kind" => """{"number":"BFX-00000001","weight":"10.50","place":"Møllehavn"}"""u8.ToArray(),
            "member missing" => """{"number":"BFX-00000001","weight":10.50}"""u8.ToArray(),
            _ => s_plain,
        };
        var key = mistake switch
        {
            "first half" => s_key[..16],
            "second half" => s_key[16..],
            "key as base64" => Encoding.ASCII.GetBytes(Convert.ToBase64String(s_key))[..32],
            "key as hex" => Encoding.ASCII.GetBytes(Convert.ToHexStringLower(s_key))[..32],
            "key hashed" => SHA256.HashData(s_key),
            "other key" => SHA256.HashData("another"u8),
            _ => s_key,
        };
        var padding = mistake switch { "zeros" => PaddingMode.Zeros, "counted" => PaddingMode.ANSIX923, "random" => PaddingMode.ISO10126, "spaces" => PaddingMode.None, _ => PaddingMode.PKCS7 };
        if (mistake == "spaces")
            plain = [.. plain, .. Enumerable.Repeat((byte)' ', 16 - (plain.Length % 16))];
        var data = Encrypt(mistake is "ecb" ? Ciphers.Ecb : mistake is "cbc" ? Ciphers.Cbc : mistake is "gcm" ? Ciphers.Gcm : cipher, mistake, key, plain, padding);
        if (mistake == "cut")
            data = data[..^5];
        var text = mistake switch
        {
            "base64url" => System.Buffers.Text.Base64Url.EncodeToString(data),
            "hex" => Convert.ToHexStringLower(data),
            "lines" => string.Join('\n', Convert.ToBase64String(data).Chunk(64).Select(line => new string(line))),
            "twice" => Convert.ToBase64String(Encoding.ASCII.GetBytes(Convert.ToBase64String(data))),
            "percent" => Uri.EscapeDataString(Convert.ToBase64String(data)),
            "no padding of base64" => Convert.ToBase64String(data).TrimEnd('='),
            _ => Convert.ToBase64String(data),
        };
        return new JsonObject { [mistake == "other place" ? "Data" : mistake == "no place" ? "payload" : "data"] = text }.ToJsonString();
    }

    private static byte[] Encrypt(string cipher, string mistake, byte[] key, byte[] plain, PaddingMode padding)
    {
        using var aes = Aes.Create();
        aes.Key = key;
        var vector = mistake == "zero vector" ? new byte[16] : mistake == "key as vector" ? key[..16] : RandomNumberGenerator.GetBytes(16);
        if (cipher == Ciphers.Ecb)
            return aes.EncryptEcb(plain, padding);
        if (cipher == Ciphers.Cbc)
        {
            var encrypted = aes.EncryptCbc(plain, vector, padding);
            return mistake is "zero vector" or "key as vector" ? encrypted : mistake == "vector last" ? [.. encrypted, .. vector] : [.. vector, .. encrypted];
        }

        var (nonce, cipherText, tag) = (RandomNumberGenerator.GetBytes(12), new byte[plain.Length], new byte[16]);
        using var gcm = new AesGcm(key, 16);
        gcm.Encrypt(nonce, plain, cipherText, tag);
        return mistake == "tag first" ? [.. nonce, .. tag, .. cipherText] : [.. nonce, .. cipherText, .. tag];
    }
}
