using System.Collections.Concurrent;
using System.Security.Cryptography.X509Certificates;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Access;

/// <summary>Checks signed assertions (RFC 7523 section 3).</summary>
public sealed class AssertionDesk(StandInOptions options)
{
    public const string Grant = "urn:ietf:params:oauth:grant-type:jwt-bearer";

    private readonly ConcurrentDictionary<string, bool> _seen = new(StringComparer.Ordinal);

    /// <summary>The client that an assertion speaks for, before it is believed.</summary>
    public string ClientOf(string assertion)
    {
        var handler = new JsonWebTokenHandler();
        return handler.CanReadToken(assertion) ? handler.ReadJsonWebToken(assertion).Subject : "";
    }

    /// <summary>Checks an assertion and gives its subject.</summary>
    /// <param name="client">Whose it must be; null for a grant.</param>
    /// <exception cref="RefusedException">It is not good.</exception>
    public string Check(string assertion, string? client, HttpContext context, string error)
    {
        if (options.ClientCertificate is not { } path)
            throw new RefusedException(error, "no certificate is registered for this client", 401);
        using var certificate = X509CertificateLoader.LoadCertificateFromFile(path);
        if (options.Has("checks-validity") && certificate.NotAfter < DateTime.Now)
            throw new RefusedException(error, "the certificate has expired", 401);
        var handler = new JsonWebTokenHandler();
        if (!handler.CanReadToken(assertion))
            throw new RefusedException(error, "the assertion is not a JWT", 401);
        var token = handler.ReadJsonWebToken(assertion);
        var thumbprint = Base64UrlEncoder.Encode(certificate.GetCertHash());
        if (token.TryGetHeaderValue<string>("x5t", out var named) && named != thumbprint)
            throw new RefusedException(error, $"the certificate with thumbprint {named} is not registered for this client", 401);
        var result = handler.ValidateTokenAsync(assertion, new TokenValidationParameters
        {
            IssuerSigningKey = new X509SecurityKey(certificate),
            ValidateIssuer = false,
            ValidateAudience = false,
            ValidateLifetime = false,
        }).GetAwaiter().GetResult();
        if (!result.IsValid && new EcKey(certificate).Verifies(assertion) is false)
            throw new RefusedException(error, "the signature of the assertion does not fit the registered key", 401);
        if (client is not null && (token.Issuer != client || token.Subject != client))
            throw new RefusedException(error, "issuer and subject of the assertion must be the client", 401);
        CheckClaims(token, context, error);
        return token.Subject;
    }

    private void CheckClaims(JsonWebToken token, HttpContext context, string error)
    {
        var here = $"{context.Request.Scheme}://{context.Request.Host}";
        if (options.Has("assertion-for-issuer")
            ? !token.Audiences.Contains(here)
            : !token.Audiences.Any(audience => audience == here || audience == here + "/oauth2/token"))
            throw new RefusedException(
                error, $"the assertion's audience is {string.Join(' ', token.Audiences)}, and should be this server", 401);
        var now = DateTime.UtcNow + options.ClockAhead;
        if (token.ValidTo < now)
            throw new RefusedException(error, "the assertion has expired (exp is in the past)", 401);
        if (token.ValidTo > now + TimeSpan.FromMinutes(6))
            throw new RefusedException(error, "the assertion is good for too long (exp is too far away)", 401);
        if (!_seen.TryAdd(options.Has("replay") ? "the same" : token.Id, true))
            throw new RefusedException(error, "an assertion with this jti has already been used", 401);
    }

    private sealed class EcKey(X509Certificate2 certificate)
    {
        public bool Verifies(string assertion)
        {
            using var key = certificate.GetECDsaPublicKey();
            if (key is null)
                return false;
            var end = assertion.LastIndexOf('.');
            var hash = key.KeySize == 384
                ? System.Security.Cryptography.HashAlgorithmName.SHA384
                : System.Security.Cryptography.HashAlgorithmName.SHA256;
            return key.VerifyData(
                System.Text.Encoding.ASCII.GetBytes(assertion[..end]), Base64UrlEncoder.DecodeBytes(assertion[(end + 1)..]), hash);
        }
    }
}
