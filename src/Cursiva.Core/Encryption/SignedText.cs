using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Signed texts: JWS in the compact form, also detached (RFC 7515 sections 7.1 and appendix F), and in both JSON forms (section 7.2).
/// </summary>
public static class SignedText
{
    /// <summary>Signs, in the compact form.</summary>
    /// <param name="isDetached">Whether the payload goes another way, and is omitted of the text.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <exception cref="PayloadException">The key is none for the algorithm, or a public one.</exception>
    public static string Sign(byte[] payload, ExchangeKey key, string algorithm, bool isDetached = false, Action<PayloadStep>? shown = null)
    {
        var members = new JsonObject { ["alg"] = algorithm };
        if (key.Id is not null)
            members["kid"] = key.Id;
        var (header, body) = (Base64.Url(Encoding.UTF8.GetBytes(members.ToJsonString())), Base64.Url(payload));
        var signature = SignatureAlgorithms.Sign(key, algorithm, Encoding.ASCII.GetBytes($"{header}.{body}"));
        var text = $"{header}.{(isDetached ? "" : body)}.{Base64.Url(signature)}";
        shown?.Invoke(new("payload", Encoding.UTF8.GetString(payload), $"{payload.Length:N0} bytes"));
        shown?.Invoke(new("header", members.ToJsonString(), "protected"));
        shown?.Invoke(new("signing input", $"{header}.{body}", "header and payload in base64url, separated by a dot"));
        shown?.Invoke(new("signature", Base64.Url(signature), $"by {algorithm} with the {key.Words}"));
        shown?.Invoke(
            new("text", text, isDetached ? "JWS, compact and detached (RFC 7515 appendix F)" : "JWS, compact form (RFC 7515 section 7.1)"));
        return text;
    }

    /// <summary>Verifies a text in any form.</summary>
    /// <param name="keys">The keys of whoever may have signed; the certificate of an authority stands for every signer whose certificate it
    /// issued, and that the text brings (x5c, RFC 7515 section 4.1.6).</param>
    /// <param name="now">The time at which certificates that the text brings must be valid; null where it may bring none.</param>
    /// <param name="detached">The payload that went another way; null where it is in the text.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <exception cref="PayloadException">It is not such a text, or none of its signatures is valid.</exception>
    public static VerifiedText Verify(
        string text,
        IReadOnlyList<ExchangeKey> keys,
        byte[]? detached = null,
        Action<PayloadStep>? shown = null,
        DateTimeOffset? now = null)
    {
        var (payload, signatures) = text.TrimStart().StartsWith('{') ? OfJson(text) : OfCompact(text);
        if (payload.Length == 0 && detached is not null)
            payload = Base64.Url(detached);
        else if (detached is not null)
            throw new PayloadException("the text has its own payload, and another one was given");
        PayloadException? last = null;
        foreach (var (protectedHeader, signature) in signatures)
        {
            try
            {
                return Verify(protectedHeader, payload, signature, keys, shown, now);
            }
            catch (PayloadException error)
            {
                // Another signature may be of somebody whose key is here.
                last = error;
            }
        }

        throw last ?? new PayloadException("it has no signature");
    }

    private static VerifiedText Verify(
        string protectedHeader,
        string payload,
        string signature,
        IReadOnlyList<ExchangeKey> keys,
        Action<PayloadStep>? shown,
        DateTimeOffset? now)
    {
        using var header = ProtectedHeader.Read(protectedHeader);
        shown?.Invoke(new("header", header.Text, "protected"));
        var algorithm = header.Member("alg") ?? throw new PayloadException("its header has no alg");
        var (input, bytes) = (Encoding.ASCII.GetBytes($"{protectedHeader}.{payload}"), Base64.FromUrl(signature));
        foreach (var key in Candidates(header, keys, algorithm, now))
        {
            if (!SignatureAlgorithms.Verify(key, algorithm, input, bytes))
                continue;
            var plain = Base64.FromUrl(payload);
            shown?.Invoke(new("signature", signature, $"valid, {algorithm} with the {key.Words}"));
            shown?.Invoke(new("payload", Encoding.UTF8.GetString(plain), "verified"));
            return new VerifiedText(plain, header.Text, key);
        }

        throw new PayloadException("the signature is not valid: it was made with another key, or the text was changed on the way");
    }

    // The key that the header names; of several and no name, those of the algorithm's kind; or the signer's that an authority vouches for.
    private static IEnumerable<ExchangeKey> Candidates(
        ProtectedHeader header, IReadOnlyList<ExchangeKey> keys, string algorithm, DateTimeOffset? now)
    {
        if (now is { } time
            && header.Certificates() is { Count: > 0 } chain
            && keys.Where(key => key.Certificate is { } certificate && SignerChain.IsAuthority(certificate))
                .ToList() is { Count: > 0 } authorities)
            return [SignerChain.Signer(chain, authorities, time)];
        if (header.Member("kid") is not null || keys.Count < 2)
            return [ProtectedHeader.Choose(keys, header.Member("kid"))];
        List<ExchangeKey> fit = [.. keys.Where(key => SignatureAlgorithms.Fits(key, algorithm))];
        return fit.Count > 0 ? fit : throw new PayloadException($"none of the {keys.Count} keys is for {algorithm}");
    }

    private static (string Payload, IReadOnlyList<(string Header, string Signature)> Signatures) OfCompact(string text) =>
        text.Trim().Split('.') is [var header, var payload, var signature] ? (payload, [(header, signature)])
            : throw new PayloadException(
                "it is not a JWS: the compact form has three parts with dots between them, the JSON form a payload and signatures");

    private static (string Payload, IReadOnlyList<(string Header, string Signature)> Signatures) OfJson(string text)
    {
        try
        {
            using var document = JsonDocument.Parse(text);
            var root = document.RootElement;
            var payload = root.TryGetProperty("payload", out var body) ? body.GetString()! : "";
            (string, string) One(JsonElement one) => (one.GetProperty("protected").GetString()!, one.GetProperty("signature").GetString()!);
            return (payload, root.TryGetProperty("signatures", out var several) ? [.. several.EnumerateArray().Select(One)] : [One(root)]);
        }
        catch (Exception error) when (error is JsonException or KeyNotFoundException or InvalidOperationException)
        {
            throw new PayloadException(
                "it is not a JWS in a JSON form, which has payload, and either protected and signature or signatures with both", error);
        }
    }
}
