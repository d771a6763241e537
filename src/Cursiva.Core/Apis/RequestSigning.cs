using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Apis;

/// <summary>
/// Signs requests: as an HTTP message (RFC 9421), by a detached JWS, as a JWS, or by the HMAC of a text of the job's own.
/// </summary>
public static class RequestSigning
{
    /// <summary>The request with its signature.</summary>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <exception cref="PayloadException">The key is none for this form.</exception>
    public static Request Sign(
        Request request,
        RequestSignature declared,
        ExchangeKey key,
        DateTimeOffset now,
        Action<PayloadStep>? shown = null) => declared.Form switch
        {
            SignatureForms.Message => Message(request, declared, key, now, shown),
            SignatureForms.Hmac => Hmac(request, declared, key, now, shown),
            SignatureForms.Detached => With(
                request,
                declared.Header,
                SignedText.Sign(request.Body ?? [], key, declared.Algorithm ?? SignatureAlgorithms.Usual(key), isDetached: true, shown)),
            SignatureForms.Jws when request.Body is { } body => request with
            {
                Body = Encoding.ASCII.GetBytes(
                    SignedText.Sign(body, key, declared.Algorithm ?? SignatureAlgorithms.Usual(key), shown: shown)),
                BodyType = SealedBody.JoseType,
            },
            _ => request,
        };

    private static Request Message(
        Request request, RequestSignature declared, ExchangeKey key, DateTimeOffset now, Action<PayloadStep>? shown)
    {
        IReadOnlyList<string> covered = declared.Covers.Count > 0 ? declared.Covers : request.Body is null ?
        [
            "@method",
            "@target-uri",
        ] : ["@method", "@target-uri", "content-digest", "content-type"];
        if (request.Body is { } body && covered.Contains("content-digest"))
        {
            var digest = MessageSignature.DigestOf(body);
            shown?.Invoke(new("Content-Digest", digest, "RFC 9530"));
            request = With(request, "Content-Digest", digest);
        }

        // What a request without a body cannot have is not covered.
        var (input, signature) = MessageSignature.Sign(
            [.. covered.Where(name => request.Body is not null || name is not ("content-digest" or "content-type" or "content-length"))],
            key,
            declared.Algorithm,
            now,
            new MessageParts(request, null).Value,
            shown);
        return With(With(request, "Signature-Input", input), "Signature", signature);
    }

    private static Request Hmac(Request request, RequestSignature declared, ExchangeKey key, DateTimeOffset now, Action<PayloadStep>? shown)
    {
        if (key.Secret is not { } secret)
            throw new PayloadException($"an HMAC needs a shared key, and this is a {key.Words}");
        var (address, body) = (request.SentTo, request.Body ?? []);
        var nonce = new Lazy<string>(() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16)));
        string Value(string? name) => name switch
        {
            "method" => request.Method.Method,
            "address" => address.AbsoluteUri,
            "host" => address.Authority,
            "path" => address.AbsolutePath,
            "query" => address.Query.TrimStart('?'),
            "time" => now.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture),
            "unix-time" => now.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture),
            "nonce" => nonce.Value,
            "body" => Encoding.UTF8.GetString(body),
            "body-sha256" => Convert.ToBase64String(SHA256.HashData(body)),
            _ => Convert.ToHexStringLower(SHA256.HashData(body)),
        };
        var text = declared.Text!.Fill(Value);
        var mac = HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes(text));
        shown?.Invoke(new("text", text, "the text that the HMAC is computed over"));
        var written = declared.InHex ? Convert.ToHexStringLower(mac) : Convert.ToBase64String(mac);
        shown?.Invoke(new(declared.Header, written, $"HMAC-SHA-256, in {(declared.InHex ? "hex" : "base64")}"));
        return declared.Beside.Aggregate(
            With(request, declared.Header, written), (signed, header) => With(signed, header.Key, header.Value.Fill(Value)));
    }

    private static Request With(Request request, string name, string value) =>
        request with { Headers = [.. request.Headers, new(name, value)] };
}
