using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Secrets;

/// <summary>
/// Seals what is kept on disk with AES-256-GCM (NIST SP 800-38D). A sealed value opens under the name it was sealed for and no
/// other, so that entries cannot be exchanged.
/// </summary>
public sealed class Vault(StoreKey keySource)
{
    private const byte Version = 1;
    private const int MarkLength = 8;
    private const int NonceLength = 12;
    private const int TagLength = 16;
    private const int HeaderLength = 1 + MarkLength + NonceLength + TagLength;

    private readonly Lazy<byte[]> _key = new(keySource.Read);

    /// <summary>Seals a value under a name.</summary>
    /// <exception cref="RefusedException">The key cannot be read.</exception>
    public byte[] Seal(string name, ReadOnlySpan<byte> plain)
    {
        var sealedBytes = new byte[HeaderLength + plain.Length];
        sealedBytes[0] = Version;
        Mark().CopyTo(sealedBytes.AsSpan(1));
        var nonce = sealedBytes.AsSpan(1 + MarkLength, NonceLength);
        RandomNumberGenerator.Fill(nonce);
        using var aes = new AesGcm(_key.Value, TagLength);
        aes.Encrypt(
            nonce,
            plain,
            sealedBytes.AsSpan(HeaderLength),
            sealedBytes.AsSpan(1 + MarkLength + NonceLength, TagLength),
            Encoding.UTF8.GetBytes(name));
        return sealedBytes;
    }

    /// <summary>Opens a sealed value.</summary>
    /// <exception cref="RefusedException">The key is another one, or the value was changed.</exception>
    public byte[] Open(string name, ReadOnlySpan<byte> sealedBytes)
    {
        if (sealedBytes.Length < HeaderLength || sealedBytes[0] != Version)
            throw Changed(name);
        if (!sealedBytes.Slice(1, MarkLength).SequenceEqual(Mark()))
        {
            throw new RefusedException(new Refusal(
                Outcome.SignInRefused, $"'{name}' was sealed with another key than that of {keySource.Where}")
            {
                Cause = "the key file was replaced, or the environment differs from when the entry was stored",
                NextStep = $"restore the old key, or remove the entry and store the secret again: cursiva secret remove {name}",
            });
        }

        var plain = new byte[sealedBytes.Length - HeaderLength];
        using var aes = new AesGcm(_key.Value, TagLength);
        try
        {
            aes.Decrypt(
                sealedBytes.Slice(1 + MarkLength, NonceLength),
                sealedBytes[HeaderLength..],
                sealedBytes.Slice(1 + MarkLength + NonceLength, TagLength),
                plain,
                Encoding.UTF8.GetBytes(name));
        }
        catch (AuthenticationTagMismatchException)
        {
            throw Changed(name);
        }

        return plain;
    }

    /// <summary>A digest that nobody without the key can make or guess from (RFC 2104), 32 bytes.</summary>
    /// <exception cref="RefusedException">The key cannot be read.</exception>
    public byte[] Digest(ReadOnlySpan<byte> plain) => HMACSHA256.HashData(_key.Value, plain);

    // Tells a wrong key from a changed file, and nothing else about the key.
    private ReadOnlySpan<byte> Mark() => HMACSHA256.HashData(_key.Value, "which key"u8).AsSpan(0, MarkLength);

    private static RefusedException Changed(string name) =>
        new(new Refusal(Outcome.SignInRefused, $"the sealed entry '{name}' was changed after it was stored")
        {
            Cause = "the state was edited, or the disk is damaged",
            NextStep = $"store the secret again: cursiva secret keep {name}",
        });
}
