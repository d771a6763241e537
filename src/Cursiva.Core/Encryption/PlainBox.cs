using System.Security.Cryptography;
using System.Text;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Content under a key of its own by plain AES, the key under an RSA key: the parts that older schemes put into an envelope.
/// </summary>
/// <param name="WrappedKey">The key under the other side's public key, in base64; empty where the key is shared.</param>
/// <param name="Data">Vector, cipher text and tag, in base64.</param>
public sealed record PlainBox(string WrappedKey, string Data)
{
    private const int KeySize = 32;
    private const int Block = 16;
    private const int GcmVector = 12;
    private const int GcmTag = 16;

    /// <summary>Encrypts.</summary>
    /// <param name="key">The other side's public RSA key, or a shared key of 16, 24 or 32 bytes.</param>
    /// <param name="wrap">How the key is handed over; not looked at where it is shared.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <exception cref="PayloadException">The key is none for this.</exception>
    public static PlainBox Encrypt(byte[] plain, ExchangeKey key, KeyAlgorithm wrap, PlainCipher mode, Action<PayloadStep>? shown = null)
    {
        var (content, wrapped) = key.Secret is { } shared ? (shared, []) : KeyWrapping.Wrap(key, wrap, KeySize);
        using var aes = NewAes(content);
        var vector = mode == PlainCipher.Ecb ? [] : RandomNumberGenerator.GetBytes(mode == PlainCipher.Gcm ? GcmVector : Block);
        var (cipher, tag) = mode switch
        {
            PlainCipher.Ecb => (aes.EncryptEcb(plain, PaddingMode.PKCS7), (byte[])[]),
            PlainCipher.Cbc => (aes.EncryptCbc(plain, vector), []),
            PlainCipher.Gcm => Gcm(content, vector, plain),
        };
        var box = new PlainBox(
            wrapped.Length == 0 ? "" : Convert.ToBase64String(wrapped), Convert.ToBase64String([.. vector, .. cipher, .. tag]));
        shown?.Invoke(new("plain text", Encoding.UTF8.GetString(plain), $"{plain.Length:N0} bytes", IsSecret: true));
        shown?.Invoke(
            new(
                "key",
                Convert.ToBase64String(content),
                key.Secret is null ? $"{content.Length * 8} random bits, new each time" : "the shared key",
                IsSecret: true));
        if (wrapped.Length > 0)
            shown?.Invoke(new("wrapped key", box.WrappedKey, $"the key under the {key.Words}, with {AlgorithmNames.Of(wrap)}, base64"));
        if (vector.Length > 0)
            shown?.Invoke(new("vector", Convert.ToBase64String(vector), $"{vector.Length} random bytes, before the cipher text"));
        shown?.Invoke(
            new(
                "cipher text",
                Convert.ToBase64String(cipher),
                $"AES-{content.Length * 8}-{mode.ToString().ToUpperInvariant()}{(mode == PlainCipher.Gcm ? "" : $", PKCS #7 padding of {Block - (plain.Length % Block)} bytes")}"));
        if (tag.Length > 0)
            shown?.Invoke(new("tag", Convert.ToBase64String(tag), "after the cipher text"));
        shown?.Invoke(new("data", box.Data, "base64"));
        return box;
    }

    /// <summary>Opens it.</summary>
    /// <param name="key">One's own private RSA key, or the shared key.</param>
    /// <param name="wrap">How the key was handed over.</param>
    /// <exception cref="PayloadException">It does not open.</exception>
    public byte[] Decrypt(ExchangeKey key, KeyAlgorithm wrap, PlainCipher mode, Action<PayloadStep>? shown = null) =>
        Decrypt(Encoding.UTF8.GetBytes(Data), WrappedKey, key, wrap, mode, shown);

    /// <summary>Opens data.</summary>
    /// <param name="text">The data, in base64.</param>
    /// <param name="wrappedKey">The wrapped key, in base64; not looked at where the key is shared.</param>
    /// <exception cref="PayloadException">It does not open.</exception>
    public static byte[] Decrypt(
        ReadOnlySpan<byte> text, string wrappedKey, ExchangeKey key, KeyAlgorithm wrap, PlainCipher mode, Action<PayloadStep>? shown = null)
    {
        var data = Base64.TryAny(text) ?? throw new PayloadException("the data are not base64");
        var content = key.Secret ?? KeyWrapping.Unwrap(
            key, wrap, Base64.TryAny(wrappedKey) ?? throw new PayloadException("the wrapped key is not base64"), KeySize);
        shown?.Invoke(
            new(
                "key",
                Convert.ToBase64String(content),
                key.Secret is null ? $"unwrapped with {AlgorithmNames.Of(wrap)} and the {key.Words}" : "the shared key",
                IsSecret: true));
        using var aes = NewAes(content);
        try
        {
            var plain = mode switch
            {
                PlainCipher.Ecb => aes.DecryptEcb(data, PaddingMode.PKCS7),
                PlainCipher.Cbc => data.Length > Block
                    ? aes.DecryptCbc(data.AsSpan(Block), data.AsSpan(0, Block))
                    : throw PayloadException.Closed(),
                PlainCipher.Gcm => FromGcm(content, data),
            };
            shown?.Invoke(
                new(
                    "plain text",
                    Encoding.UTF8.GetString(plain),
                    $"AES-{content.Length * 8}-{mode.ToString().ToUpperInvariant()}",
                    IsSecret: true));
            return plain;
        }
        catch (CryptographicException error)
        {
            throw PayloadException.Closed(error);
        }
    }

    private static Aes NewAes(byte[] key)
    {
        if (key.Length is not (16 or 24 or 32))
            throw new PayloadException($"AES needs a key of 128, 192 or 256 bits, and this one has {key.Length * 8}");
        var aes = Aes.Create();
        aes.Key = key;
        return aes;
    }

    private static (byte[] Cipher, byte[] Tag) Gcm(byte[] key, byte[] vector, byte[] plain)
    {
        var (cipher, tag) = (new byte[plain.Length], new byte[GcmTag]);
        using var gcm = new AesGcm(key, GcmTag);
        gcm.Encrypt(vector, plain, cipher, tag);
        return (cipher, tag);
    }

    private static byte[] FromGcm(byte[] key, byte[] data)
    {
        if (data.Length < GcmVector + GcmTag)
            throw PayloadException.Closed();
        var plain = GC.AllocateUninitializedArray<byte>(data.Length - GcmVector - GcmTag);
        using var gcm = new AesGcm(key, GcmTag);
        gcm.Decrypt(data.AsSpan(0, GcmVector), data.AsSpan(GcmVector, plain.Length), data.AsSpan(data.Length - GcmTag), plain);
        return plain;
    }
}
