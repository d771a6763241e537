using System.Buffers.Binary;
using System.Security.Cryptography;

namespace Cursiva.Core.Encryption;

/// <summary>Encrypts content and proves that it is unchanged: AES-CBC with HMAC (RFC 7518 section 5.2), or AES-GCM (section 5.3).</summary>
internal static class ContentCipher
{
    private const int GcmTag = 16;

    /// <summary>Bytes of a content key.</summary>
    public static int KeySize(ContentAlgorithm algorithm) => algorithm switch
    {
        ContentAlgorithm.A128CbcHs256 or ContentAlgorithm.A256Gcm => 32,
        ContentAlgorithm.A192CbcHs384 => 48,
        ContentAlgorithm.A256CbcHs512 => 64,
        ContentAlgorithm.A128Gcm => 16,
        ContentAlgorithm.A192Gcm => 24,
    };

    /// <summary>Bytes of an initialization vector.</summary>
    public static int VectorSize(ContentAlgorithm algorithm) => IsGcm(algorithm) ? 12 : 16;

    /// <summary>Bytes of a tag.</summary>
    public static int TagSize(ContentAlgorithm algorithm) => IsGcm(algorithm) ? GcmTag : KeySize(algorithm) / 2;

    /// <summary>Encrypts.</summary>
    /// <param name="beside">What is proven to be unchanged besides, and not encrypted.</param>
    public static (byte[] Cipher, byte[] Tag) Encrypt(ContentAlgorithm algorithm, byte[] key, byte[] vector, byte[] plain, byte[] beside)
    {
        if (IsGcm(algorithm))
        {
            var (cipher, tag) = (new byte[plain.Length], new byte[GcmTag]);
            using var gcm = new AesGcm(key, GcmTag);
            gcm.Encrypt(vector, plain, cipher, tag, beside);
            return (cipher, tag);
        }

        using var aes = Aes.Create();
        aes.Key = key[(key.Length / 2)..];
        var encrypted = aes.EncryptCbc(plain, vector);
        return (encrypted, Tag(algorithm, key, vector, encrypted, beside));
    }

    /// <summary>Decrypts what is proven to be unchanged.</summary>
    /// <exception cref="PayloadException">It does not open.</exception>
    public static byte[] Decrypt(ContentAlgorithm algorithm, byte[] key, byte[] vector, byte[] cipher, byte[] tag, byte[] beside)
    {
        if (vector.Length != VectorSize(algorithm))
            throw PayloadException.Closed();
        try
        {
            if (IsGcm(algorithm))
            {
                if (tag.Length != GcmTag)
                    throw PayloadException.Closed();
                var plain = GC.AllocateUninitializedArray<byte>(cipher.Length);
                using var gcm = new AesGcm(key, GcmTag);
                gcm.Decrypt(vector, cipher, tag, plain, beside);
                return plain;
            }

            if (!CryptographicOperations.FixedTimeEquals(tag, Tag(algorithm, key, vector, cipher, beside)))
                throw PayloadException.Closed();
            using var aes = Aes.Create();
            aes.Key = key[(key.Length / 2)..];
            return aes.DecryptCbc(cipher, vector);
        }
        catch (CryptographicException error)
        {
            throw PayloadException.Closed(error);
        }
    }

    private static bool IsGcm(ContentAlgorithm algorithm) =>
        algorithm is ContentAlgorithm.A128Gcm or ContentAlgorithm.A192Gcm or ContentAlgorithm.A256Gcm;

    // RFC 7518 section 5.2.2.1: the first half of the key, over what is beside, the vector, the cipher text and the length of what is
    // beside.
    private static byte[] Tag(ContentAlgorithm algorithm, byte[] key, byte[] vector, byte[] cipher, byte[] beside)
    {
        var length = new byte[8];
        BinaryPrimitives.WriteUInt64BigEndian(length, (ulong)beside.Length * 8);
        byte[] all = [.. beside, .. vector, .. cipher, .. length];
        var own = key[..(key.Length / 2)];
        var whole = algorithm switch
        {
            ContentAlgorithm.A128CbcHs256 => HMACSHA256.HashData(own, all),
            ContentAlgorithm.A192CbcHs384 => HMACSHA384.HashData(own, all),
            _ => HMACSHA512.HashData(own, all),
        };
        return whole[..(whole.Length / 2)];
    }
}
