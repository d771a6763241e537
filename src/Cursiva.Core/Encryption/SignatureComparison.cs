using System.Security.Cryptography;
using System.Text;

namespace Cursiva.Core.Encryption;

/// <summary>Says at which step one's own JWS begins to differ from what the job would send.</summary>
public static class SignatureComparison
{
    /// <summary>Compares what one's own program signed: a JWS in the compact form, or a detached one.</summary>
    /// <param name="own">Its output.</param>
    /// <param name="payload">What should be signed.</param>
    public static IReadOnlyList<ComparedStep> Signed(string own, byte[] payload, ExchangeKey key, string algorithm)
    {
        var steps = new List<ComparedStep>();
        own = own.Trim();
        if (own.Split('.') is not [var header, var body, var signature])
            return [new(
                "form",
                false,
                $"it has {own.Split('.').Length} parts separated by dots, but a JWS in the compact form has three (RFC 7515 section 7.1)")];
        steps.Add(new("form", true, body.Length == 0 ? "three parts, without the payload (detached)" : "three parts"));
        if (!JoseParts.IsUrl(header, "header", steps)
            || !JoseParts.IsUrl(signature, "signature", steps)
            || (body.Length > 0 && !JoseParts.IsUrl(body, "payload", steps)))
            return steps;
        if (!JoseParts.Header(header, [("alg", algorithm), ("kid", key.Id)], steps))
            return steps;
        if (body.Length > 0 && PlainComparison.Difference(Base64.FromUrl(body), payload) is { } difference)
            return [.. steps, new("payload", false, difference)];
        steps.Add(new("payload", true, "as expected"));
        steps.Add(Signature(header, payload, Base64.FromUrl(signature), key, algorithm));
        return steps;
    }

    private static ComparedStep Signature(string header, byte[] payload, byte[] signature, ExchangeKey key, string algorithm)
    {
        var input = Encoding.ASCII.GetBytes($"{header}.{Base64.Url(payload)}");
        if (SignatureAlgorithms.Verify(key, algorithm, input, signature))
            return new("signature", true, $"valid, {algorithm}");
        var others = new (string Words, byte[] Data)[]
        {
            ("only the payload; it must be the header and the payload in base64url, separated by a dot (RFC 7515 section 5.1)", payload),
            (
                "the header and payload themselves; they must be in base64url (RFC 7515 section 5.1)",
                [.. Base64.FromUrl(header), (byte)'.', .. payload]),
            ("a text that ends with a line break", [.. input, (byte)'\n']),
        };
        if (others.FirstOrDefault(other => SignatureAlgorithms.Verify(key, algorithm, other.Data, signature)).Words is { } words)
            return new("signature", false, $"it was made over {words}");
        if (key.Curve is { } curve
            && signature.Length > 8
            && signature[0] == 0x30
            && curve.VerifyData(input, signature, HashAlgorithmName.SHA256, DSASignatureFormat.Rfc3279DerSequence))
            return new(
                "signature",
                false,
                "it is in DER form, as most libraries return it; a JWS has the two numbers one after the other (RFC 7518 section 3.4)");
        if (SignatureAlgorithms.All
            .Where(
                other => other != algorithm && other[..2] == algorithm[..2]
                    || (algorithm[..2] is "RS" or "PS" && other[..2] is "RS" or "PS"))
            .FirstOrDefault(other => Fits(key, other, input, signature)) is { } made)
            return new("signature", false, $"it was made with {made}, not with {algorithm}");
        return new("signature", false, "not valid: it was made with another key, or over another text");
    }

    private static bool Fits(ExchangeKey key, string algorithm, byte[] data, byte[] signature)
    {
        try
        {
            return SignatureAlgorithms.Verify(key, algorithm, data, signature);
        }
        catch (PayloadException)
        {
            return false;
        }
    }
}
