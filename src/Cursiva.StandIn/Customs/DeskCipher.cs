using System.Security.Cryptography;
using System.Text;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Customs;

/// <summary>What the desk encrypts and opens under a session key, in each of its ways.</summary>
public sealed class DeskCipher(DeskManner manner)
{
    private const int Block = 16;
    private const int Tag = 16;
    private const int Nonce = 12;

    public string Seal(DeskWay way, byte[] key, byte[] plain)
    {
        if (manner.Is("old-key"))
            key = SHA256.HashData(key);
        if (manner.Is("wrong-padding") && way != DeskWay.Standard)
            plain = [.. plain, .. new byte[Block - (plain.Length % Block)]];
        var text = way switch
        {
            DeskWay.Old => Convert.ToBase64String(Ecb(key, plain)),
            DeskWay.Middle => Convert.ToBase64String(Cbc(key, plain)),
            DeskWay.Standard => Jwe(key, plain),
        };
        return manner.Is("truncated") ? text[..(text.Length / 2 / 4 * 4)] : text;
    }

    /// <exception cref="CryptographicException">It does not open.</exception>
    public static byte[] Open(DeskWay way, byte[] key, string text)
    {
        using var aes = Aes.Create();
        aes.Key = key;
        switch (way)
        {
            case DeskWay.Old:
                return aes.DecryptEcb(Convert.FromBase64String(text), PaddingMode.PKCS7);
            case DeskWay.Middle:
                var data = Convert.FromBase64String(text);
                return aes.DecryptCbc(data.AsSpan(Block), data.AsSpan(0, Block));
            default:
                var parts = text.Split('.');
                var (nonce, cipher, tag) = (
                    Base64UrlEncoder.DecodeBytes(parts[2]), Base64UrlEncoder.DecodeBytes(parts[3]), Base64UrlEncoder.DecodeBytes(parts[4]));
                var plain = new byte[cipher.Length];
                using (var gcm = new AesGcm(key, Tag))
                    gcm.Decrypt(nonce, cipher, tag, plain, Encoding.ASCII.GetBytes(parts[0]));
                return plain;
        }
    }

    private byte[] Ecb(byte[] key, byte[] plain)
    {
        using var aes = Aes.Create();
        aes.Key = key;
        return aes.EncryptEcb(plain, manner.Is("wrong-padding") ? PaddingMode.None : PaddingMode.PKCS7);
    }

    private byte[] Cbc(byte[] key, byte[] plain)
    {
        using var aes = Aes.Create();
        aes.Key = key;
        var vector = RandomNumberGenerator.GetBytes(Block);
        return [.. vector, .. aes.EncryptCbc(plain, vector, manner.Is("wrong-padding") ? PaddingMode.None : PaddingMode.PKCS7)];
    }

    private static string Jwe(byte[] key, byte[] plain)
    {
        var header = Base64UrlEncoder.Encode("""{"alg":"dir","enc":"A256GCM"}""");
        var (nonce, cipher, tag) = (RandomNumberGenerator.GetBytes(Nonce), new byte[plain.Length], new byte[Tag]);
        using var gcm = new AesGcm(key, Tag);
        gcm.Encrypt(nonce, plain, cipher, tag, Encoding.ASCII.GetBytes(header));
        return $"{header}..{Base64UrlEncoder.Encode(nonce)}.{Base64UrlEncoder.Encode(cipher)}.{Base64UrlEncoder.Encode(tag)}";
    }
}
