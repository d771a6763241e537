using System.Buffers;
using System.Globalization;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>Makes signed assertions (RFC 7523 section 3, as JWS in compact form, RFC 7515).</summary>
internal sealed class SignedAssertion(DeclaredIdentity identity, SigningKey key, TimeProvider clock)
{
    /// <summary>The assertion by which the client proves itself (RFC 7523 section 2.2): issuer and subject are the client.</summary>
    public string ForClient(Uri tokenEndpoint) =>
        Write(tokenEndpoint, identity.ClientId, identity.ClientId, new Dictionary<string, string>());

    /// <summary>The assertion that is a grant of its own (RFC 7523 section 2.1).</summary>
    public string ForGrant(Uri tokenEndpoint)
    {
        var issuer = identity.Assertion.Issuer ?? identity.ClientId;
        var claims = new Dictionary<string, string>(identity.Assertion.Claims);
        return Write(tokenEndpoint, issuer, identity.Assertion.Subject ?? issuer, claims);
    }

    private string Write(Uri tokenEndpoint, string issuer, string subject, IReadOnlyDictionary<string, string> claims)
    {
        var algorithm = identity.Assertion.Algorithm ?? key.UsualAlgorithm;
        if (!key.Fits(algorithm))
        {
            throw new RefusedException(new Refusal(
                Outcome.SignInRefused, $"the key of identity '{identity.Name}' cannot make {algorithm} signatures")
            {
                NextStep = $"remove algorithm: from assertion:, or set it to {key.UsualAlgorithm}",
            });
        }

        var text = Base64UrlText.Write(Header(algorithm)) + "." + Base64UrlText.Write(Payload(tokenEndpoint, issuer, subject, claims));
        return text + "." + Base64UrlText.Write(key.Sign(Encoding.ASCII.GetBytes(text), algorithm));
    }

    private byte[] Header(string algorithm) => Json(writer =>
    {
        writer.WriteString("alg", algorithm);
        writer.WriteString("typ", "JWT");

        // Only the id that the server gave the key: one of our own making would point strict servers to a key they do not have.
        if (identity.Key?.KeyId is { } id)
            writer.WriteString("kid", id);
        if (key.Certificate is not { } certificate)
            return;
        writer.WriteString("x5t", Base64UrlText.Write(certificate.GetCertHash(HashAlgorithmName.SHA1)));
        writer.WriteString("x5t#S256", Base64UrlText.Write(certificate.GetCertHash(HashAlgorithmName.SHA256)));
        if (!identity.Assertion.SendCertificate)
            return;
        writer.WriteStartArray("x5c");
        writer.WriteStringValue(Convert.ToBase64String(certificate.Export(X509ContentType.Cert)));
        writer.WriteEndArray();
    });

    private byte[] Payload(Uri tokenEndpoint, string issuer, string subject, IReadOnlyDictionary<string, string> claims) => Json(writer =>
    {
        var now = clock.GetUtcNow().ToUnixTimeSeconds();
        writer.WriteString("iss", issuer);
        writer.WriteString("sub", subject);
        writer.WriteString("aud", identity.Assertion.Audience ?? tokenEndpoint.AbsoluteUri);
        writer.WriteNumber("iat", now);
        writer.WriteNumber("exp", now + (long)identity.Assertion.Lifetime.TotalSeconds);
        writer.WriteString("jti", Guid.NewGuid().ToString("n", CultureInfo.InvariantCulture));
        foreach (var (name, value) in claims)
            writer.WriteString(name, value);
    });

    private static byte[] Json(Action<Utf8JsonWriter> write)
    {
        var bytes = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(bytes))
        {
            writer.WriteStartObject();
            write(writer);
            writer.WriteEndObject();
        }

        return bytes.WrittenSpan.ToArray();
    }
}
