using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Encryption;

/// <summary>Bodies in the envelopes of every scheme, there and back; and every touched bit of what is proven.</summary>
public sealed class SealedBodyTests
{
    private static readonly byte[] s_plain = """{"number":"BFX-1","weight":10.50,"place":"Møllehavn","lines":[{"pieces":3}]}"""u8.ToArray();

    // What no base64 can spell by chance, as the three letters of a number can.
    private const string Clear = "Møllehavn";

    private static readonly JsonPointer s_data = JsonPointer.TryParse("/env/data")!;

    public static TheoryData<string, bool> Ways => new() { { Ciphers.Jwe, false }, { Ciphers.Ecb, false }, { Ciphers.Cbc, false }, { Ciphers.Gcm, false }, { Ciphers.Jwe, true }, { Ciphers.Ecb, true }, { Ciphers.Cbc, true }, { Ciphers.Gcm, true } };

    [Theory]
    [MemberData(nameof(Ways))]
    public void What_is_sent_comes_back(string cipher, bool base64First)
    {
        using var key = Shared(32);
        foreach (var at in new[] { null, s_data })
        {
            var declared = new BodyEncryption(cipher, null) { RequestAt = at, AnswerAt = at, Base64First = base64First };
            var steps = new List<PayloadStep>();
            var (body, type) = SealedBody.Encrypt(s_plain, declared, key, steps.Add);
            Encoding.UTF8.GetString(body).ShouldNotContain(Clear);
            type.ShouldBe(at is not null ? "application/json" : cipher == Ciphers.Jwe ? "application/jose" : "text/plain");
            SealedBody.Decrypt(body, declared, [key]).ShouldBe(s_plain);
            steps.Where(step => !step.IsSecret).ShouldAllBe(step => !step.Value.Contains(Clear, StringComparison.Ordinal) && !step.Value.Contains(Convert.ToBase64String(key.Secret!), StringComparison.Ordinal));
            steps.Count.ShouldBeGreaterThan(3);
        }
    }

    [Theory]
    [InlineData(Ciphers.Jwe)]
    [InlineData(Ciphers.Gcm)]
    public void Every_touched_bit_of_a_proven_text_is_refused_alike(string cipher)
    {
        using var key = Shared(32);
        var declared = new BodyEncryption(cipher, null);
        var text = Encoding.ASCII.GetString(SealedBody.Encrypt("""{"a":1}"""u8.ToArray(), declared, key).Body);
        var told = new HashSet<string>();
        foreach (var (part, start) in text.Split('.').Select((part, place) => (part, text.Split('.').Take(place).Sum(before => before.Length + 1))))
        {
            if (part.Length == 0)
                continue;
            var bytes = cipher == Ciphers.Jwe ? System.Buffers.Text.Base64Url.DecodeFromChars(part) : Convert.FromBase64String(part);
            for (var bit = 0; bit < bytes.Length * 8; bit++)
            {
                bytes[bit / 8] ^= (byte)(1 << (bit % 8));
                var touched = text[..start] + (cipher == Ciphers.Jwe ? System.Buffers.Text.Base64Url.EncodeToString(bytes) : Convert.ToBase64String(bytes)) + text[(start + part.Length)..];
                var error = Should.Throw<PayloadException>(() => SealedBody.Decrypt(Encoding.ASCII.GetBytes(touched), declared, [key]));
                if (start > 0)
                    told.Add(error.Message);
                bytes[bit / 8] ^= (byte)(1 << (bit % 8));
            }
        }

        told.Count.ShouldBeLessThan(2);
    }

    [Fact]
    public void Members_are_encrypted_each_in_its_place_and_the_others_stay()
    {
        using var key = Shared(32);
        var declared = new BodyEncryption(Ciphers.Cbc, null) { Members = [JsonPointer.TryParse("/number")!, JsonPointer.TryParse("/lines/0/pieces")!] };
        var sent = JsonNode.Parse(SealedBody.Encrypt(s_plain, declared, key).Body)!;
        sent["weight"]!.ToJsonString().ShouldBe("10.50");
        Open(sent["number"]!.ToString()).ShouldBe("BFX-1");
        Open(sent["lines"]![0]!["pieces"]!.ToString()).ShouldBe("3");
        Should.Throw<PayloadException>(() => SealedBody.Encrypt(s_plain, declared with { Members = [JsonPointer.TryParse("/nothing")!] }, key)).Message.ShouldContain("/nothing");
        Should.Throw<PayloadException>(() => SealedBody.Encrypt("no"u8.ToArray(), declared, key)).Message.ShouldContain("not JSON");

        string Open(string text) => Encoding.UTF8.GetString(SealedBody.Decrypt(Encoding.ASCII.GetBytes(text), new BodyEncryption(Ciphers.Cbc, null), [key])!);
    }

    [Fact]
    public void A_message_may_bring_a_key_of_its_own()
    {
        using var rsa = RSA.Create(2048);
        using var open = new ExchangeKey { Rsa = RSA.Create(rsa.ExportParameters(false)) };
        using var own = new ExchangeKey { Rsa = RSA.Create(rsa.ExportParameters(true)), IsPrivate = true };
        foreach (var algorithm in Ciphers.UnderPublicKeys)
        {
            var declared = new BodyEncryption(Ciphers.Cbc, null) { Algorithm = algorithm, RequestAt = s_data, AnswerAt = s_data, KeyAt = JsonPointer.TryParse("/key")! };
            SealedBody.Decrypt(SealedBody.Encrypt(s_plain, declared, open).Body, declared, [own]).ShouldBe(s_plain);
        }

        Should.Throw<PayloadException>(() => SealedBody.Encrypt(s_plain, new BodyEncryption(Ciphers.Cbc, null), open)).Message.ShouldContain("needs a shared key");
        var hybrid = new BodyEncryption(Ciphers.Jwe, null);
        SealedBody.Decrypt(SealedBody.Encrypt(s_plain, hybrid, open).Body, hybrid, [own]).ShouldBe(s_plain);
    }

    [Fact]
    public void An_answer_in_the_clear_is_none_that_was_opened()
    {
        using var key = Shared(32);
        SealedBody.Decrypt("""{"error":{"code":"KEY_ENDED"}}"""u8, new BodyEncryption(Ciphers.Ecb, null) { AnswerAt = s_data }, [key]).ShouldBeNull();
        SealedBody.Decrypt("""{"env":{"data":null}}"""u8, new BodyEncryption(Ciphers.Ecb, null) { AnswerAt = s_data }, [key]).ShouldBeNull();
        SealedBody.Decrypt("""[1]"""u8, new BodyEncryption(Ciphers.Ecb, null), [key]).ShouldBeNull();
        SealedBody.Decrypt("""not json"""u8, new BodyEncryption(Ciphers.Ecb, null) { AnswerAt = s_data }, [key]).ShouldBeNull();
    }

    [Fact]
    public void A_key_of_another_length_is_named()
    {
        using var half = Shared(16);
        Should.Throw<PayloadException>(() => SealedBody.Encrypt(s_plain, new BodyEncryption(Ciphers.Ecb, null), half)).Message.ShouldBe("AES-256-ECB needs a key of 256 bits, and this one has 128");
        Should.Throw<PayloadException>(() => SealedBody.Encrypt(s_plain, new BodyEncryption(Ciphers.Jwe, null), half)).Message.ShouldContain("a shared key of 256 bits, and this one has 128");
    }

    private static ExchangeKey Shared(int size) => new() { Secret = RandomNumberGenerator.GetBytes(size), IsPrivate = true };
}
