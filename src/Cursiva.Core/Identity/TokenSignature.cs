using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Identity;

/// <summary>Checks a token's signature against a key set (RFC 7515 section 5.2, RFC 7517, RFC 7518).</summary>
public static class TokenSignature
{
    /// <summary>Why a signature cannot hold, whatever keys there are; null when it may.</summary>
    public static string? Objection(Jwt token)
    {
        if (Text(token.Header, "alg") is not { Length: > 0 } algorithm || algorithm.Equals("none", StringComparison.OrdinalIgnoreCase))
            return "not signed: its header has no algorithm (alg), so anybody could have made it";
        if (token.Signature.Length == 0)
            return "not signed: the signature is empty";
        if (!token.Header.TryGetProperty("crit", out var critical))
            return null;

        // RFC 7515 section 4.1.11: who does not know all of these must refuse the token.
        var names = critical.ValueKind == JsonValueKind.Array
            ? string.Join(", ", critical.EnumerateArray().Select(name => name.ToString()))
            : critical.GetRawText();
        return $"not understood: the token requires its reader to support {names} (crit), which is not supported";
    }

    /// <summary>
    /// True when a key of the set made the signature, false when the key that the token names did not, null when the set has no such key.
    /// </summary>
    public static bool? Check(Jwt token, JsonElement keySet)
    {
        var algorithm = Text(token.Header, "alg");
        var id = Text(token.Header, "kid");
        if (algorithm is not { Length: 5 } || !keySet.TryGetProperty("keys", out var keys) || keys.ValueKind != JsonValueKind.Array)
            return null;
        bool? result = null;
        foreach (var key in keys.EnumerateArray().Where(key => id is null || Text(key, "kid") is null || Text(key, "kid") == id))
        {
            try
            {
                if (Verify(token, key, algorithm) is { } holds)
                    result = holds || result == true;
            }
            catch (Exception error) when (error is CryptographicException or ArgumentException or NotSupportedException)
            {
                // A key that cannot be used made no signature.
            }
        }

        return result;
    }

    private static bool? Verify(Jwt token, JsonElement key, string algorithm)
    {
        var signed = Encoding.ASCII.GetBytes(token.Signed);
        var hash = algorithm[2..] switch
        {
            "256" => HashAlgorithmName.SHA256,
            "384" => HashAlgorithmName.SHA384,
            "512" => HashAlgorithmName.SHA512,
            _ => default,
        };
        if (hash == default)
            return null;
        switch (Text(key, "kty"), algorithm[..2])
        {
            case ("RSA", "RS" or "PS"):
                using (var rsa = RSA.Create(new RSAParameters { Modulus = Bytes(key, "n"), Exponent = Bytes(key, "e") }))
                    return rsa.VerifyData(
                        signed, token.Signature, hash, algorithm[0] == 'P' ? RSASignaturePadding.Pss : RSASignaturePadding.Pkcs1);
            case ("EC", "ES"):
                ECCurve? curve = Text(key, "crv") switch
                {
                    "P-256" => ECCurve.NamedCurves.nistP256,
                    "P-384" => ECCurve.NamedCurves.nistP384,
                    "P-521" => ECCurve.NamedCurves.nistP521,
                    _ => null,
                };
                if (curve is null)
                    return null;
                using (var ecdsa = ECDsa.Create(
                    new ECParameters { Curve = curve.Value, Q = new ECPoint { X = Bytes(key, "x"), Y = Bytes(key, "y") } }))
                    return ecdsa.VerifyData(signed, token.Signature, hash);
            default:
                return null;
        }
    }

    private static string? Text(JsonElement element, string name) =>
        element.ValueKind == JsonValueKind.Object && element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String
            ? value.GetString()
            : null;

    private static byte[]? Bytes(JsonElement key, string name) => Text(key, name) is { } text ? Base64UrlText.TryRead(text) : null;
}
