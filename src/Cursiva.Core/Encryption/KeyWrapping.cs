using System.Buffers.Binary;
using System.Security.Cryptography;

namespace Cursiva.Core.Encryption;

/// <summary>Hands over a content key: by RSA, by AES Key Wrap (RFC 3394), or not at all where it is shared (RFC 7518 section 4).</summary>
internal static class KeyWrapping
{
    private const ulong Sound = 0xA6A6A6A6A6A6A6A6;
    private const int HalfBlock = 8;

    /// <summary>The content key, and how it is handed over.</summary>
    /// <exception cref="PayloadException">The key is none for this algorithm.</exception>
    public static (byte[] ContentKey, byte[] Wrapped) Wrap(ExchangeKey key, KeyAlgorithm algorithm, int size)
    {
        if (algorithm == KeyAlgorithm.Direct)
            return (Shared(key, size), []);
        var content = RandomNumberGenerator.GetBytes(size);
        return (
            content,
            algorithm is KeyAlgorithm.A128Kw or KeyAlgorithm.A256Kw
                ? Wrap(Shared(key, SizeOf(algorithm)), content)
                : RsaOf(key).Encrypt(content, Padding(algorithm)));
    }

    /// <summary>
    /// The content key. One that does not open is replaced by another one, so that only the content can tell (RFC 7516 section 11.5).
    /// </summary>
    /// <exception cref="PayloadException">The key is none for this algorithm.</exception>
    public static byte[] Unwrap(ExchangeKey key, KeyAlgorithm algorithm, byte[] wrapped, int size)
    {
        if (algorithm == KeyAlgorithm.Direct)
            return wrapped.Length == 0 ? Shared(key, size) : throw PayloadException.Closed();
        if (algorithm is not (KeyAlgorithm.A128Kw or KeyAlgorithm.A256Kw) && (!key.IsPrivate || key.Rsa is null))
            throw new PayloadException($"{AlgorithmNames.Of(algorithm)} needs a private RSA key, and this is a {key.Words}");
        try
        {
            var content = algorithm is KeyAlgorithm.A128Kw or KeyAlgorithm.A256Kw
                ? Unwrap(Shared(key, SizeOf(algorithm)), wrapped)
                : key.Rsa!.Decrypt(wrapped, Padding(algorithm));
            if (content is not null && content.Length == size)
                return content;
        }
        catch (CryptographicException)
        {
            // Told by the content alone.
        }

        return RandomNumberGenerator.GetBytes(size);
    }

    /// <summary>Something short, encrypted under the other side's public key.</summary>
    /// <exception cref="PayloadException">The key is none for this, or too short for so many bytes.</exception>
    public static byte[] Under(ExchangeKey key, KeyAlgorithm algorithm, byte[] plain)
    {
        var padding = algorithm switch { KeyAlgorithm.Rsa15 => 11, KeyAlgorithm.RsaOaep => 42, _ => 66 };
        var most = (RsaOf(key).KeySize / 8) - padding;
        if (plain.Length > most)
            throw new PayloadException(
                $"{plain.Length:N0} bytes do not fit under a {key.Words} with {AlgorithmNames.Of(algorithm)}, which takes {most:N0}; set content: to encrypt any length as a JWE");
        return key.Rsa!.Encrypt(plain, Padding(algorithm));
    }

    private static int SizeOf(KeyAlgorithm algorithm) => algorithm == KeyAlgorithm.A128Kw ? 16 : 32;

    private static RSA RsaOf(ExchangeKey key) =>
        key.Rsa ?? throw new PayloadException($"RSA encryption needs the other side's public RSA key, and this is a {key.Words}");

    private static byte[] Shared(ExchangeKey key, int size) => key.Secret is not { } secret ? throw new PayloadException(
        $"this algorithm needs a shared key, and this is a {key.Words}")
        : secret.Length == size
            ? secret
            : throw new PayloadException($"this algorithm needs a shared key of {size * 8} bits, and this one has {secret.Length * 8}");

    private static RSAEncryptionPadding Padding(KeyAlgorithm algorithm) => algorithm switch
    {
        KeyAlgorithm.Rsa15 => RSAEncryptionPadding.Pkcs1,
        KeyAlgorithm.RsaOaep => RSAEncryptionPadding.OaepSHA1,
        _ => RSAEncryptionPadding.OaepSHA256,
    };

    // RFC 3394 section 2.2.1.
    private static byte[] Wrap(byte[] key, byte[] content)
    {
        using var aes = Aes.Create();
        aes.Key = key;
        var count = content.Length / HalfBlock;
        var wrapped = new byte[content.Length + HalfBlock];
        content.CopyTo(wrapped, HalfBlock);
        var (sign, block) = (Sound, new byte[2 * HalfBlock]);
        for (var turn = 0; turn < 6; turn++)
        {
            for (var place = 1; place <= count; place++)
            {
                BinaryPrimitives.WriteUInt64BigEndian(block, sign);
                wrapped.AsSpan(place * HalfBlock, HalfBlock).CopyTo(block.AsSpan(HalfBlock));
                aes.EncryptEcb(block, block, PaddingMode.None);
                sign = BinaryPrimitives.ReadUInt64BigEndian(block) ^ (ulong)((count * turn) + place);
                block.AsSpan(HalfBlock).CopyTo(wrapped.AsSpan(place * HalfBlock));
            }
        }

        BinaryPrimitives.WriteUInt64BigEndian(wrapped, sign);
        return wrapped;
    }

    // RFC 3394 section 2.2.2; null where the sign does not come out.
    private static byte[]? Unwrap(byte[] key, byte[] wrapped)
    {
        if (wrapped.Length < 3 * HalfBlock || wrapped.Length % HalfBlock != 0)
            return null;
        using var aes = Aes.Create();
        aes.Key = key;
        var content = wrapped[HalfBlock..];
        var (count, sign, block) = (content.Length / HalfBlock, BinaryPrimitives.ReadUInt64BigEndian(wrapped), new byte[2 * HalfBlock]);
        for (var turn = 5; turn >= 0; turn--)
        {
            for (var place = count; place >= 1; place--)
            {
                BinaryPrimitives.WriteUInt64BigEndian(block, sign ^ (ulong)((count * turn) + place));
                content.AsSpan((place - 1) * HalfBlock, HalfBlock).CopyTo(block.AsSpan(HalfBlock));
                aes.DecryptEcb(block, block, PaddingMode.None);
                sign = BinaryPrimitives.ReadUInt64BigEndian(block);
                block.AsSpan(HalfBlock).CopyTo(content.AsSpan((place - 1) * HalfBlock));
            }
        }

        return sign == Sound ? content : null;
    }
}
