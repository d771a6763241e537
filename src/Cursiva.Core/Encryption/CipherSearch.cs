using System.Security.Cryptography;
using System.Text;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Finds out how something was encrypted that does not open: in another mode, with another vector, padding or half of the key.
/// </summary>
internal static class CipherSearch
{
    private const int Block = 16;
    private const int GcmNonce = 12;
    private const int GcmTag = 16;

    /// <summary>Another way in which the data open to something like the right plain text, in words; null where none does.</summary>
    /// <param name="right">The plain text that should come out.</param>
    public static CipherFind? Find(byte[] data, byte[] key, PlainCipher mode, byte[] right)
    {
        // Where a vector is not sent, CBC opens all but its first block in more than one way: the one that gives the very text is meant.
        CipherFind? alike = null;
        foreach (var find in All(data, key, mode, right))
        {
            if (find.Plain.AsSpan().SequenceEqual(right))
                return find;
            alike ??= find;
        }

        return alike;
    }

    private static IEnumerable<CipherFind> All(byte[] data, byte[] key, PlainCipher mode, byte[] right)
    {
        foreach (var (keyWords, candidate) in Keys(key))
        {
            foreach (var (found, foundMode, modeWords, raw) in Modes(data, candidate, mode))
            {
                if (Padding(raw, right, foundMode) is not var (plain, padding))
                    continue;
                yield return new CipherFind(plain, keyWords, found ? null : modeWords, padding);
            }
        }
    }

    // The keys that a program takes by mistake for the right one.
    private static IEnumerable<(string? Words, byte[] Key)> Keys(byte[] key)
    {
        yield return (null, key);
        if (key.Length == 32)
        {
            yield return ("with only the first half of the key (AES-128)", key[..16]);
            yield return ("with only the second half of the key (AES-128)", key[16..]);
        }

        var text = Convert.ToBase64String(key);
        yield return (
            "with the base64 text of the key, cut to 32 characters, instead of its bytes",
            Encoding.ASCII.GetBytes(text)[..Math.Min(32, text.Length)]);
        yield return (
            "with the hex text of the key, cut to 32 characters, instead of its bytes",
            Encoding.ASCII.GetBytes(Convert.ToHexStringLower(key))[..32]);
        yield return ("with the SHA-256 of the key's base64 text instead of its bytes", SHA256.HashData(Encoding.ASCII.GetBytes(text)));
        yield return ("with the SHA-256 of the key instead of the key", SHA256.HashData(key));
        yield return ("with the key's bytes in the opposite order", [.. key.Reverse()]);
    }

    private static IEnumerable<(bool IsRight, PlainCipher Mode, string Words, byte[] Raw)> Modes(byte[] data, byte[] key, PlainCipher right)
    {
        if (key.Length is not (16 or 24 or 32))
            yield break;
        using var aes = Aes.Create();
        aes.Key = key;
        if (data.Length > 0 && data.Length % Block == 0)
        {
            yield return (right == PlainCipher.Ecb, PlainCipher.Ecb, "in ECB mode", aes.DecryptEcb(data, PaddingMode.None));
            if (data.Length > Block)
                yield return (
                    right == PlainCipher.Cbc,
                    PlainCipher.Cbc,
                    "in CBC mode with the vector before the cipher text",
                    aes.DecryptCbc(data.AsSpan(Block), data.AsSpan(0, Block), PaddingMode.None));
            yield return (
                false,
                PlainCipher.Cbc,
                "in CBC mode with a vector of zeros, which is not sent",
                aes.DecryptCbc(data, new byte[Block], PaddingMode.None));
            yield return (
                false,
                PlainCipher.Cbc,
                "in CBC mode with the beginning of the key as the vector, which is not sent",
                aes.DecryptCbc(data, key.AsSpan(0, Block), PaddingMode.None));
            if (data.Length > Block)
                yield return (
                    false,
                    PlainCipher.Cbc,
                    "in CBC mode with the vector after the cipher text",
                    aes.DecryptCbc(data.AsSpan(0, data.Length - Block), data.AsSpan(data.Length - Block), PaddingMode.None));
        }

        foreach (var (words, nonce, tag, cipher) in Gcm(data))
        {
            if (TryGcm(key, nonce, tag, cipher) is { } plain)
                yield return (right == PlainCipher.Gcm && words == GcmRight, PlainCipher.Gcm, words, plain);
        }
    }

    private const string GcmRight = "in GCM mode with the vector first and the tag last";

    private static IEnumerable<(string Words, byte[] Nonce, byte[] Tag, byte[] Cipher)> Gcm(byte[] data)
    {
        if (data.Length < GcmNonce + GcmTag)
            yield break;
        yield return (GcmRight, data[..GcmNonce], data[^GcmTag..], data[GcmNonce..^GcmTag]);
        yield return (
            "in GCM mode with the tag before the cipher text",
            data[..GcmNonce],
            data[GcmNonce..(GcmNonce + GcmTag)],
            data[(GcmNonce + GcmTag)..]);
        yield return ("in GCM mode with a vector of zeros, which is not sent", new byte[GcmNonce], data[^GcmTag..], data[..^GcmTag]);
        yield return (
            "in GCM mode with the vector last", data[^GcmNonce..], data[^(GcmNonce + GcmTag)..^GcmNonce], data[..^(GcmNonce + GcmTag)]);
    }

    private static byte[]? TryGcm(byte[] key, byte[] nonce, byte[] tag, byte[] cipher)
    {
        try
        {
            var plain = new byte[cipher.Length];
            using var gcm = new AesGcm(key, GcmTag);
            gcm.Decrypt(nonce, cipher, tag, plain);
            return plain;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    // What was opened without looking at its padding: its text, and what is wrong with the padding; null where it is not text of ours.
    private static (byte[] Plain, string? Wrong)? Padding(byte[] raw, byte[] right, PlainCipher mode)
    {
        if (mode == PlainCipher.Gcm)
            return (raw, null);
        if (raw.Length == 0)
            return null;
        var last = raw[^1];
        if (last is > 0 and <= Block
            && last <= raw.Length
            && raw.AsSpan(raw.Length - last).IndexOfAnyExcept(last) < 0
            && IsText(raw.AsSpan(0, raw.Length - last), right))
            return (raw[..^last], null);
        if (last is > 0 and <= Block && last <= raw.Length && IsText(raw.AsSpan(0, raw.Length - last), right))
        {
            return (raw[..^last], raw.AsSpan(raw.Length - last, last - 1).IndexOfAnyExcept((byte)0) < 0
                ? "its padding is zero bytes and a count (ANSI X9.23), not PKCS #7"
                : "its padding is random bytes and a count (ISO 10126), not PKCS #7");
        }

        var zeros = raw.AsSpan().TrimEnd((byte)0);
        if (!IsText(zeros, right))
            return null;
        return zeros.Length < raw.Length ? (zeros.ToArray(), "its padding is zero bytes, not PKCS #7")
            : raw.Length % Block == 0 && raw.AsSpan().TrimEnd((byte)' ').Length < raw.Length && right.Length % Block != 0 ? (
                raw.AsSpan().TrimEnd((byte)' ').ToArray(), "its padding is spaces, not PKCS #7")
            : (raw, "it has no padding: PKCS #7 adds a whole block where the text fills its last one");
    }

    // Like the right text, or at least a text: bytes that were opened by a wrong key are none.
    private static bool IsText(ReadOnlySpan<byte> opened, byte[] right)
    {
        if (opened.IsEmpty)
            return right.Length == 0;
        if (opened.CommonPrefixLength(right) >= Math.Min(Math.Min(opened.Length, right.Length), Block))
            return true;
        if (!System.Text.Unicode.Utf8.IsValid(opened))
            return false;
        foreach (var b in opened)
        {
            if (b < 32 && b is not ((byte)'\n' or (byte)'\r' or (byte)'\t'))
                return false;
        }

        return opened.Length >= Block / 2;
    }
}
