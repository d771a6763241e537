using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Customs;

/// <summary>Signs what the desk confirms: documents as JWS (RFC 7515), answers as HTTP messages (RFC 9421).</summary>
public sealed class DeskSeal(DeskKeys keys, DeskManner manner)
{
    private SignedAnswer? _first;

    /// <summary>A JWS in the compact form.</summary>
    public string Sign(JsonObject document)
    {
        var header = Base64UrlEncoder.Encode("""{"alg":"ES256","kid":"seal-1"}""");
        var text = $"{header}.{Base64UrlEncoder.Encode(document.ToJsonString())}";
        var signature = Key.SignData(Encoding.ASCII.GetBytes(text), HashAlgorithmName.SHA256);
        if (!manner.Is("changed"))
            return $"{text}.{Base64UrlEncoder.Encode(signature)}";
        document["number"] = "forged";
        return $"{header}.{Base64UrlEncoder.Encode(document.ToJsonString())}.{Base64UrlEncoder.Encode(signature)}";
    }

    /// <summary>Signs an answer; what is given back is its body, which may be that of another answer.</summary>
    /// <param name="asked">The address that was asked for.</param>
    public byte[] Sign(HttpResponse response, string asked, byte[] body)
    {
        var digest = $"sha-256=:{Convert.ToBase64String(SHA256.HashData(body))}:";
        var input =
            $"(\"@status\" \"content-digest\" \"@target-uri\";req);created={DateTimeOffset.UtcNow.ToUnixTimeSeconds()};keyid=\"seal-1\";alg=\"ecdsa-p256-sha256\"";
        var text =
            $"\"@status\": {response.StatusCode}\n\"content-digest\": {digest}\n\"@target-uri\";req: {asked}\n\"@signature-params\": {input}";
        var made = new SignedAnswer(
            input, Convert.ToBase64String(Key.SignData(Encoding.UTF8.GetBytes(text), HashAlgorithmName.SHA256)), digest, body);
        var first = Interlocked.CompareExchange(ref _first, made, null) ?? made;
        if (manner.Is("replay"))
            made = first;
        response.Headers["Content-Digest"] = made.Digest;
        response.Headers["Signature-Input"] = "desk=" + made.Input;
        response.Headers["Signature"] = $"desk=:{made.Signature}:";
        return manner.Is("changed") ? [.. made.Body[..^1], (byte)(made.Body[^1] ^ 1)] : made.Body;
    }

    private ECDsa Key => manner.Is("other-key") ? keys.Other : keys.Signing;

    private sealed record SignedAnswer(string Input, string Signature, string Digest, byte[] Body);
}
