using System.Security.Cryptography;

namespace Cursiva.Core.Encryption;

/// <summary>
/// The signature algorithms of RFC 7518 section 3. A key takes those of its kind alone, so that no public key can be passed off as a shared
/// one.
/// </summary>
public static class SignatureAlgorithms
{
    /// <summary>Every name.</summary>
    public static IReadOnlyList<string> All => Jobs.Ciphers.OfSignedTexts;

    /// <summary>The usual algorithm of a key.</summary>
    public static string Usual(ExchangeKey key) =>
        key.Rsa is not null ? "RS256" : key.Curve is { } curve ? curve.KeySize switch
        {
            256 => "ES256",
            384 => "ES384",
            _ => "ES512",
        } : "HS256";

    /// <summary>Signs.</summary>
    /// <exception cref="PayloadException">The key is none for the algorithm.</exception>
    internal static byte[] Sign(ExchangeKey key, string algorithm, byte[] data)
    {
        CheckFit(key, algorithm);
        if (!key.IsPrivate)
            throw new PayloadException($"signing needs a private key, and this is a {key.Words}");
        return algorithm[..2] switch
        {
            "RS" => key.Rsa!.SignData(data, Hash(algorithm), RSASignaturePadding.Pkcs1),
            "PS" => key.Rsa!.SignData(data, Hash(algorithm), RSASignaturePadding.Pss),
            "ES" => key.Curve!.SignData(data, Hash(algorithm), DSASignatureFormat.IeeeP1363FixedFieldConcatenation),
            _ => Mac(key, algorithm, data),
        };
    }

    /// <summary>Whether a signature fits.</summary>
    /// <exception cref="PayloadException">The key is none for the algorithm.</exception>
    internal static bool Verify(ExchangeKey key, string algorithm, byte[] data, byte[] signature)
    {
        CheckFit(key, algorithm);
        return algorithm[..2] switch
        {
            "RS" => key.Rsa!.VerifyData(data, signature, Hash(algorithm), RSASignaturePadding.Pkcs1),
            "PS" => key.Rsa!.VerifyData(data, signature, Hash(algorithm), RSASignaturePadding.Pss),
            "ES" => key.Curve!.VerifyData(data, signature, Hash(algorithm), DSASignatureFormat.IeeeP1363FixedFieldConcatenation),
            _ => CryptographicOperations.FixedTimeEquals(signature, Mac(key, algorithm, data)),
        };
    }

    /// <summary>Whether a key is one for an algorithm.</summary>
    internal static bool Fits(ExchangeKey key, string algorithm) => All.Contains(algorithm) && algorithm[..2] switch
    {
        "RS" or "PS" => key.Rsa is not null,
        "ES" => key.Curve?.KeySize == algorithm switch { "ES256" => 256, "ES384" => 384, _ => 521 },
        _ => key.Secret?.Length >= int.Parse(algorithm.AsSpan(2), System.Globalization.CultureInfo.InvariantCulture) / 8,
    };

    private static void CheckFit(ExchangeKey key, string algorithm)
    {
        if (!All.Contains(algorithm))
            throw new PayloadException($"alg is '{algorithm}', not one of {string.Join(", ", All)}");
        if (!Fits(key, algorithm))
            throw new PayloadException($"{algorithm} is not for a {key.Words}");
    }

    private static byte[] Mac(ExchangeKey key, string algorithm, byte[] data) => algorithm switch
    {
        "HS256" => HMACSHA256.HashData(key.Secret!, data),
        "HS384" => HMACSHA384.HashData(key.Secret!, data),
        _ => HMACSHA512.HashData(key.Secret!, data),
    };

    private static HashAlgorithmName Hash(string algorithm) => algorithm[2..] switch
    {
        "256" => HashAlgorithmName.SHA256,
        "384" => HashAlgorithmName.SHA384,
        _ => HashAlgorithmName.SHA512,
    };
}
