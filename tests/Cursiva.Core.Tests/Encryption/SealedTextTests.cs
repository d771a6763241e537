using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Encryption;

namespace Cursiva.Core.Tests.Encryption;

/// <summary>JWE: the known answer of the standard, every algorithm both ways, and nothing that was touched opens.</summary>
public sealed class SealedTextTests
{
    // RFC 7516 appendix A.3.
    private const string Known = "eyJhbGciOiJBMTI4S1ciLCJlbmMiOiJBMTI4Q0JDLUhTMjU2In0.6KB707dM9YTIgHtLvtgWQ8mKwboJW3of9locizkDTHzBC2IlrT1oOQ.AxY8DCtDaGlsbGljb3RoZQ.KDlTtXchhZTGufMYmOYGS4HffxPSUrfmqCHXaI9wOGY.U0m_YmjN04DJvceFICbCVQ";
    private const string KnownKey = """{"kty":"oct","k":"GawgguFyGrWKav7AX4VKUg"}""";

    [Fact]
    public void The_known_answer_of_the_standard_opens() =>
        Encoding.UTF8.GetString(SealedText.Decrypt(Known, ExchangeKeys.Read(Encoding.UTF8.GetBytes(KnownKey)))).ShouldBe("Live long and prosper.");

    public static TheoryData<string, string> Algorithms => [.. AlgorithmNames.Keys.SelectMany(_ => AlgorithmNames.Contents, (key, content) => (key, content))];

    [Theory]
    [MemberData(nameof(Algorithms))]
    public void What_was_encrypted_opens_again(string keyName, string contentName)
    {
        var (algorithm, content) = (AlgorithmNames.Key(keyName)!.Value, AlgorithmNames.Content(contentName)!.Value);
        var (open, own) = Keys(algorithm, content);
        var steps = new List<PayloadStep>();
        var text = SealedText.Encrypt("fürs Amt"u8.ToArray(), open, algorithm, content, shown: steps.Add);
        Encoding.UTF8.GetString(SealedText.Decrypt(text, [own])).ShouldBe("fürs Amt");
        steps.Select(step => step.Name).ShouldBe(["plain text", "header", "content key", "wrapped key", "vector", "cipher text", "tag", "text"]);
        steps.Where(step => step.IsSecret).Select(step => step.Name).ShouldBe(["plain text", "content key"]);
        SealedText.Encrypt("fürs Amt"u8.ToArray(), open, algorithm, content).ShouldNotBe(text, "vector and key are new each time");
    }

    [Theory]
    [InlineData("RSA-OAEP-256", "A256GCM")]
    [InlineData("RSA1_5", "A128CBC-HS256")]
    [InlineData("A256KW", "A256CBC-HS512")]
    [InlineData("dir", "A128GCM")]
    public void No_flipped_bit_opens_and_all_of_them_read_alike(string keyName, string contentName)
    {
        var (algorithm, content) = (AlgorithmNames.Key(keyName)!.Value, AlgorithmNames.Content(contentName)!.Value);
        var (open, own) = Keys(algorithm, content);
        var parts = SealedText.Encrypt("short"u8.ToArray(), open, algorithm, content).Split('.');
        for (var part = 1; part < 5; part++)
        {
            var bytes = Base64Url.DecodeFromChars(parts[part]);
            for (var bit = 0; bit < bytes.Length * 8; bit += bytes.Length > 64 ? 37 : 1)
            {
                var touched = bytes.ToArray();
                touched[bit / 8] ^= (byte)(1 << (bit % 8));
                var text = string.Join('.', parts.Select((own, place) => place == part ? Base64Url.EncodeToString(touched) : own));
                Should.Throw<PayloadException>(() => SealedText.Decrypt(text, [own])).Message.ShouldBe(PayloadException.DoesNotOpen, $"part {part}, bit {bit}");
            }
        }
    }

    [Theory]
    [InlineData("a.b.c", "five parts")]
    [InlineData("e30.AA.AA.AA.AA", "alg is ''")]
    [InlineData("eyJhbGciOiJSU0EtT0FFUCIsImVuYyI6IlhYWCJ9.AA.AA.AA.AA", "enc is 'XXX'")]
    [InlineData("eyJhbGciOiJkaXIiLCJlbmMiOiJBMTI4R0NNIiwiY3JpdCI6WyJ4Il19.AA.AA.AA.AA", "must be understood")]
    [InlineData("eyJhbGciOiJkaXIiLCJhbGciOiJkaXIiLCJlbmMiOiJBMTI4R0NNIn0.AA.AA.AA.AA", "a member twice")]
    [InlineData("e30=.AA.AA.AA.AA", "base64url without padding")]
    public void What_is_no_such_text_is_told(string text, string said)
    {
        var (_, own) = Keys(KeyAlgorithm.Rsa15, ContentAlgorithm.A128Gcm);
        Should.Throw<PayloadException>(() => SealedText.Decrypt(text, [own])).Message.ShouldContain(said);
    }

    [Fact]
    public void A_public_half_opens_nothing_and_says_so()
    {
        var (open, _) = Keys(KeyAlgorithm.RsaOaep, ContentAlgorithm.A256Gcm);
        var text = SealedText.Encrypt("x"u8.ToArray(), open, KeyAlgorithm.RsaOaep, ContentAlgorithm.A256Gcm);
        Should.Throw<PayloadException>(() => SealedText.Decrypt(text, [open])).Message.ShouldBe("RSA-OAEP is opened with a private RSA key, and this is a public RSA key of 2048 bits");
    }

    private static (ExchangeKey Open, ExchangeKey Own) Keys(KeyAlgorithm algorithm, ContentAlgorithm content)
    {
        if (algorithm is KeyAlgorithm.A128Kw or KeyAlgorithm.A256Kw or KeyAlgorithm.Direct)
        {
            var size = algorithm switch { KeyAlgorithm.A128Kw => 16, KeyAlgorithm.A256Kw => 32, _ => content switch { ContentAlgorithm.A128Gcm => 16, ContentAlgorithm.A192Gcm => 24, ContentAlgorithm.A192CbcHs384 => 48, ContentAlgorithm.A256CbcHs512 => 64, _ => 32 } };
            var secret = RandomNumberGenerator.GetBytes(size);
            return (new ExchangeKey { Secret = secret, IsPrivate = true }, new ExchangeKey { Secret = secret, IsPrivate = true });
        }

        return (new ExchangeKey { Rsa = RSA.Create(s_rsa.ExportParameters(false)) }, new ExchangeKey { Rsa = s_rsa, IsPrivate = true });
    }

    private static readonly RSA s_rsa = RSA.Create(2048);
}
