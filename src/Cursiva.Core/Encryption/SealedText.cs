using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Encrypted texts: JWE, written in the compact form (RFC 7516 sections 3.1, 5 and 7.1), and read in the JSON forms, too (section 7.2).
/// </summary>
public static class SealedText
{
    private const int Parts = 5;

    /// <summary>Encrypts.</summary>
    /// <param name="key">The other side's public key, or a shared one.</param>
    /// <param name="header">Further members of the protected header.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <exception cref="PayloadException">The key is none for the algorithm.</exception>
    public static string Encrypt(
        byte[] plain,
        ExchangeKey key,
        KeyAlgorithm algorithm,
        ContentAlgorithm content,
        IReadOnlyDictionary<string,
        string>? header = null,
        Action<PayloadStep>? shown = null)
    {
        var (contentKey, wrapped) = KeyWrapping.Wrap(key, algorithm, ContentCipher.KeySize(content));
        try
        {
            var members = new JsonObject { ["alg"] = AlgorithmNames.Of(algorithm), ["enc"] = AlgorithmNames.Of(content) };
            if (key.Id is not null)
                members["kid"] = key.Id;
            foreach (var (name, value) in header ?? new Dictionary<string, string>())
                members[name] = value;
            var protectedHeader = Base64.Url(Encoding.UTF8.GetBytes(members.ToJsonString()));
            var vector = RandomNumberGenerator.GetBytes(ContentCipher.VectorSize(content));
            var (cipher, tag) = ContentCipher.Encrypt(content, contentKey, vector, plain, Encoding.ASCII.GetBytes(protectedHeader));
            var text = string.Join('.', protectedHeader, Base64.Url(wrapped), Base64.Url(vector), Base64.Url(cipher), Base64.Url(tag));
            shown?.Invoke(new("plain text", Encoding.UTF8.GetString(plain), $"{plain.Length:N0} bytes", IsSecret: true));
            shown?.Invoke(new("header", members.ToJsonString(), "protected: it cannot be changed on the way"));
            shown?.Invoke(
                new(
                    "content key",
                    Base64.Url(contentKey),
                    algorithm == KeyAlgorithm.Direct ? "the shared key" : $"{contentKey.Length * 8} random bits, new for each text",
                    IsSecret: true));
            shown?.Invoke(
                new(
                    "wrapped key",
                    Base64.Url(wrapped),
                    algorithm == KeyAlgorithm.Direct
                        ? "none: the key is shared"
                        : $"the content key under the {key.Words}, with {AlgorithmNames.Of(algorithm)}"));
            shown?.Invoke(new("vector", Base64.Url(vector), $"{vector.Length} random bytes"));
            shown?.Invoke(new("cipher text", Base64.Url(cipher), $"by {AlgorithmNames.Of(content)}"));
            shown?.Invoke(new("tag", Base64.Url(tag), "authenticates header and cipher text"));
            shown?.Invoke(new("text", text, "JWE, compact form (RFC 7516 section 7.1)"));
            return text;
        }
        finally
        {
            if (algorithm != KeyAlgorithm.Direct)
                CryptographicOperations.ZeroMemory(contentKey);
        }
    }

    /// <summary>Opens a text.</summary>
    /// <param name="keys">One's own private keys, or shared ones; the one with the id that the header names, or the only one.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <exception cref="PayloadException">It is not such a text, or cannot be decrypted.</exception>
    public static byte[] Decrypt(string text, IReadOnlyList<ExchangeKey> keys, Action<PayloadStep>? shown = null) =>
        Decrypt(Encoding.UTF8.GetBytes(text), keys, shown);

    /// <summary>Opens a text.</summary>
    /// <param name="text">The text; white space around it does not count.</param>
    /// <exception cref="PayloadException">It is not such a text, or cannot be decrypted.</exception>
    public static byte[] Decrypt(ReadOnlySpan<byte> text, IReadOnlyList<ExchangeKey> keys, Action<PayloadStep>? shown = null)
    {
        text = text.Trim(" \t\r\n"u8);
        if (text is not [(byte)'{', ..])
            return Open(Compact(text), keys, shown);
        var recipients = SealedJson.Read(text);
        return Open(
            recipients.FirstOrDefault(recipient => recipient.KeyId is { } id && keys.Any(key => key.Id == id)) ?? (
                recipients is [var only] ? only : Mine(recipients, keys)),
            keys,
            shown);
    }

    // Without ids, the recipient whose algorithm fits a key.
    private static SealedParts Mine(IReadOnlyList<SealedParts> recipients, IReadOnlyList<ExchangeKey> keys) =>
        recipients.Where(
            recipient => AlgorithmNames.Key(recipient.Algorithm) is { } algorithm
                && keys.Any(
                    key => key.Secret is null == algorithm is KeyAlgorithm.Rsa15 or KeyAlgorithm.RsaOaep or KeyAlgorithm.RsaOaep256)).ToList() is [var only]
            ? only : throw new PayloadException("it is for several recipients, and none of them has the id (kid) of one of the keys given");

    private static SealedParts Compact(ReadOnlySpan<byte> text)
    {
        Span<Range> parts = stackalloc Range[Parts];
        if (text.Count((byte)'.') != Parts - 1)
            throw new PayloadException(SealedParts.NoJwe);
        Split(text, parts);
        var protectedHeader = Encoding.ASCII.GetString(text[parts[0]]);
        using var header = ProtectedHeader.Read(protectedHeader);
        if (header.Has("zip"))
            throw new PayloadException("it is compressed (zip), which is not supported");
        return new SealedParts(header.Text, header.Member("alg"), header.Member("enc"), header.Member("kid"), protectedHeader)
        {
            Wrapped = Base64.FromUrl(text[parts[1]]),
            Vector = Base64.FromUrl(text[parts[2]]),
            Cipher = Base64.FromUrl(text[parts[3]]),
            Tag = Base64.FromUrl(text[parts[4]]),
        };
    }

    private static byte[] Open(SealedParts parts, IReadOnlyList<ExchangeKey> keys, Action<PayloadStep>? shown)
    {
        shown?.Invoke(new("header", parts.Header, "protected"));
        var algorithm = AlgorithmNames.Key(parts.Algorithm) ?? throw new PayloadException(
            $"alg is '{parts.Algorithm}', not one of {string.Join(", ", AlgorithmNames.Keys)}");
        var content = AlgorithmNames.Content(parts.Content) ?? throw new PayloadException(
            $"enc is '{parts.Content}', not one of {string.Join(", ", AlgorithmNames.Contents)}");
        var key = ProtectedHeader.Choose(keys, parts.KeyId);
        var contentKey = KeyWrapping.Unwrap(key, algorithm, parts.Wrapped, ContentCipher.KeySize(content));
        shown?.Invoke(
            new(
                "content key",
                Base64.Url(contentKey),
                $"unwrapped with {AlgorithmNames.Of(algorithm)} and the {key.Words}",
                IsSecret: true));
        var plain = ContentCipher.Decrypt(
            content, contentKey, parts.Vector, parts.Cipher, parts.Tag, Encoding.ASCII.GetBytes(parts.Proven));
        shown?.Invoke(
            new(
                "plain text",
                Encoding.UTF8.GetString(plain),
                $"decrypted and authenticated with {AlgorithmNames.Of(content)}",
                IsSecret: true));
        return plain;
    }

    private static void Split(ReadOnlySpan<byte> text, Span<Range> parts)
    {
        var start = 0;
        for (var place = 0; place < Parts; place++)
        {
            var end = text[start..].IndexOf((byte)'.');
            parts[place] = end < 0 ? start..text.Length : start..(start + end);
            start = parts[place].End.Value + 1;
            if (start > text.Length)
                break;
        }
    }
}
