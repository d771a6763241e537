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

    // RFC 7516 appendix A.1, A.2, A.4 and A.5; the keys by their two primes.
    private static readonly string[] s_primes1 = ["1r52Xk46c-LsfB5P442p7atdPUrxQSy4mti_tZI3Mgf2EuFVbUoDBvaRQ-SWxkbkmoEzL7JXroSBjSrK3YIQgYdMgyAEPTPjXv_hI2_1eTSPVZfzL0lffNn03IXqWF5MDFuoUYE0hzb2vhrlN_rKrbfDIwUbTrjjgieRbwC6Cl0", "wLb35x7hmQWZsWJmB_vle87ihgZ19S8lBEROLIsZG4ayZVe9Hi9gDVCOBmUDdaDYVTSNx_8Fyw1YYa9XGrGnDew00J28cRUoeBB_jKI1oma0Orv1T9aXIWxKwd4gvxFImOWr3QRL9KEBRzk2RatUBnmDZJTIAfwTs0g68UZHvtc"];
    private static readonly string[] s_primes2 = ["9gY2w6I6S6L0juEKsbeDAwpd9WMfgqFoeA9vEyEUuk4kLwBKcoe1x4HG68ik918hdDSE9vDQSccA3xXHOAFOPJ8R9EeIAbTi1VwBYnbTp87X-xcPWlEPkrdoUKW60tgs1aNd_Nnc9LEVVPMS390zbFxt8TN_biaBgelNgbC95sM", "uKlCKvKv_ZJMVcdIs5vVSU_6cPtYI1ljWytExV_skstvRSNi9r66jdd9-yBhVfuG4shsp2j7rGnIio901RBeHo6TPKWVVykPu1iYhQXw1jIABfw-MVsN-3bQ76WLdt2SDxsHs7q7zPyUyHXmps7ycZ5c72wGkUwNOjYelmkiNS0"];
    private const string Wrapped2 = "UGhIOguC7IuEvf_NPVaXsGMoLOmwvc1GyqlIKOK1nN94nHPoltGRhWhw7Zx0-kFm1NJn8LE9XShH59_i8J0PH5ZZyNfGy2xGdULU7sHNF6Gp2vPLgNZ__deLKxGHZ7PcHALUzoOegEI-8E66jX2E4zyJKx-YxzZIItRzC5hlRirb6Y5Cl_p-ko3YvkkysZIFNPccxRU7qve1WYPxqbb2Yw8kZqa2rMWI5ng8OtvzlV7elprCbuPhcCdZ6XDP0_F8rkXds2vE4X-ncOIM8hAYHHi29NX0mcKiRaD0-D-ljQTP-cFPgwCp6X-nZZd9OHBv-B3oWh2TbqmScqXMR4gp_A";
    private const string Wrapped3 = "6KB707dM9YTIgHtLvtgWQ8mKwboJW3of9locizkDTHzBC2IlrT1oOQ";
    private const string Rest = """ "iv":"AxY8DCtDaGlsbGljb3RoZQ","ciphertext":"KDlTtXchhZTGufMYmOYGS4HffxPSUrfmqCHXaI9wOGY","tag":"Mz-VPPyU4RlcuYv1IwIvzw" """;
    private const string Shared = """ "protected":"eyJlbmMiOiJBMTI4Q0JDLUhTMjU2In0","unprotected":{"jku":"https://server.example.com/keys.jwks"} """;

    [Fact]
    public void The_other_known_answers_of_the_standard_open()
    {
        const string Live = "Live long and prosper.";
        Opened("eyJhbGciOiJSU0EtT0FFUCIsImVuYyI6IkEyNTZHQ00ifQ.OKOawDo13gRp2ojaHV7LFpZcgV7T6DVZKTyKOMTYUmKoTCVJRgckCL9kiMT03JGeipsEdY3mx_etLbbWSrFr05kLzcSr4qKAq7YN7e9jwQRb23nfa6c9d-StnImGyFDbSv04uVuxIp5Zms1gNxKKK2Da14B8S4rzVRltdYwam_lDp5XnZAYpQdb76FdIKLaVmqgfwX7XWRxv2322i-vDxRfqNzo_tETKzpVLzfiwQyeyPGLBIO56YJ7eObdv0je81860ppamavo35UgoRdbYaBcoh9QcfylQr66oc6vFWXRcZ_ZT2LawVCWTIy3brGPi6UklfCpIMfIjf7iGdXKHzg.48V1_ALb6US04U3b.5eym8TW_c8SuK0ltJ3rpYIzOeDQz7TALvtu6UG9oMo4vpzs9tX_EFShS8iB7j6jiSdiwkIr3ajwQzaBtQD_A.XFBoMYUZodetZdvTiFvSkQ", s_primes1).ShouldBe("The true sign of intelligence is not knowledge but imagination.");
        Opened($"eyJhbGciOiJSU0ExXzUiLCJlbmMiOiJBMTI4Q0JDLUhTMjU2In0.{Wrapped2}.AxY8DCtDaGlsbGljb3RoZQ.KDlTtXchhZTGufMYmOYGS4HffxPSUrfmqCHXaI9wOGY.9hH0vgRfYgPnAHOd8stkvw", s_primes2).ShouldBe(Live);
        var general = $$"""{ {{Shared}}, "recipients":[{"header":{"alg":"RSA1_5","kid":"2011-04-29"},"encrypted_key":"{{Wrapped2}}"},{"header":{"alg":"A128KW","kid":"7"},"encrypted_key":"{{Wrapped3}}"}],{{Rest}} }""";
        Opened(general, s_primes2).ShouldBe(Live);
        var shared = ExchangeKeys.Read(Encoding.UTF8.GetBytes(KnownKey));
        Encoding.UTF8.GetString(SealedText.Decrypt(general, shared)).ShouldBe(Live);
        Encoding.UTF8.GetString(SealedText.Decrypt(general, [shared[0].As("7")])).ShouldBe(Live);
        var flattened = $$"""{ {{Shared}}, "header":{"alg":"A128KW","kid":"7"},"encrypted_key":"{{Wrapped3}}",{{Rest}} }""";
        Encoding.UTF8.GetString(SealedText.Decrypt(flattened, shared)).ShouldBe(Live);

        Should.Throw<PayloadException>(() => SealedText.Decrypt(flattened.Replace("Mz-V", "Mz-W"), shared)).Message.ShouldBe(PayloadException.DoesNotOpen);
        Should.Throw<PayloadException>(() => SealedText.Decrypt(flattened.Replace("\"jku\"", "\"alg\":\"dir\",\"jku\""), shared)).Message.ShouldContain("alg twice");
        Should.Throw<PayloadException>(() => SealedText.Decrypt("""{"protected":7}""", shared)).Message.ShouldContain("the JSON forms have ciphertext");
    }

    private static string Opened(string text, string[] primes)
    {
        System.Numerics.BigInteger Number(string encoded) => new(Base64Url.DecodeFromChars(encoded), isUnsigned: true, isBigEndian: true);
        byte[] Bytes(System.Numerics.BigInteger number, int length)
        {
            var bytes = number.ToByteArray(isUnsigned: true, isBigEndian: true);
            return [.. new byte[length - bytes.Length], .. bytes];
        }

        var (p, q) = (Number(primes[0]), Number(primes[1]));
        System.Numerics.BigInteger e = 65537, order = (p - 1) * (q - 1), d = Inverse(e, order);
        using var key = new ExchangeKey
        {
            IsPrivate = true,
            Rsa = RSA.Create(new RSAParameters
            {
                Modulus = Bytes(p * q, 256),
                Exponent = [1, 0, 1],
                P = Bytes(p, 128),
                Q = Bytes(q, 128),
                D = Bytes(d, 256),
                DP = Bytes(d % (p - 1), 128),
                DQ = Bytes(d % (q - 1), 128),
                InverseQ = Bytes(Inverse(q, p), 128),
            }),
        };
        return Encoding.UTF8.GetString(SealedText.Decrypt(text, [key]));
    }

    private static System.Numerics.BigInteger Inverse(System.Numerics.BigInteger of, System.Numerics.BigInteger modulus)
    {
        System.Numerics.BigInteger a = of, b = modulus, x = 1, y = 0;
        while (b != 0)
            (a, b, x, y) = (b, a % b, y, x - (a / b * y));
        return ((x % modulus) + modulus) % modulus;
    }

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
        Should.Throw<PayloadException>(() => SealedText.Decrypt(text, [open])).Message.ShouldBe("RSA-OAEP needs a private RSA key, and this is a public RSA key of 2048 bits");
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
