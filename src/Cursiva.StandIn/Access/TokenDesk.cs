using System.Collections.Concurrent;
using System.Security.Claims;
using System.Security.Cryptography;
using System.Text.Json.Nodes;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Access;

/// <summary>Issues access tokens and knows which of them are good.</summary>
public sealed class TokenDesk : IDisposable
{
    // A curve: each test starts a stand-in of its own, and an RSA key takes longer to make than everything else at its start.
    private readonly ECDsa _key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private readonly ConcurrentDictionary<string, Issued> _issued = new(StringComparer.Ordinal);
    private readonly StandInOptions _options;
    private readonly SigningCredentials _credentials;

    public TokenDesk(StandInOptions options)
    {
        _options = options;
        _credentials = new SigningCredentials(new ECDsaSecurityKey(_key) { KeyId = "brackwater-1" }, SecurityAlgorithms.EcdsaSha256);
    }

    /// <summary>A signed JWT (RFC 9068) for the client, about itself or a person.</summary>
    public string Issue(string issuer, string clientId, string subject, string scope, DateTimeOffset now)
    {
        var claims = new Dictionary<string, object>
        {
            [JwtRegisteredClaimNames.Sub] = subject,
            ["client_id"] = clientId,
            ["scope"] = scope,
            ["tenant"] = "brackwater",
            [JwtRegisteredClaimNames.Jti] = Guid.NewGuid().ToString("n"),
        };
        if (subject == clientId)
            claims["roles"] = new[] { "consignments.export" };
        else
            claims["auth_time"] = now.ToUnixTimeSeconds();
        var token = new JsonWebTokenHandler { SetDefaultTimesOnTokenCreation = false }.CreateToken(new SecurityTokenDescriptor
        {
            Issuer = issuer,
            Audience = "https://api.brackwater.example",
            IssuedAt = now.UtcDateTime,
            NotBefore = now.UtcDateTime,
            Expires = now.UtcDateTime + _options.TokenLifetime,
            TokenType = "at+jwt",
            SigningCredentials = _credentials,
            Claims = claims,
        });
        _issued[token] = new Issued(clientId, subject, scope, now + _options.TokenLifetime);
        return token;
    }

    /// <summary>A token that means nothing to anyone but this server.</summary>
    public string IssueOpaque(string clientId, string subject, string scope)
    {
        var token = "at-" + Guid.NewGuid().ToString("n");
        _issued[token] = new Issued(clientId, subject, scope, DateTimeOffset.UtcNow + _options.TokenLifetime);
        return token;
    }

    public void Revoke(string token) => _issued.TryRemove(token, out _);

    /// <summary>What introspection tells (RFC 7662 section 2.2).</summary>
    public JsonObject Explain(string token, DateTimeOffset now) => _issued.TryGetValue(token, out var issued) && issued.Expires > now
        ? new JsonObject
        {
            ["active"] = true,
            ["client_id"] = issued.Client,
            ["sub"] = issued.Subject,
            ["scope"] = issued.Scope,
            ["exp"] = issued.Expires.ToUnixTimeSeconds(),
            ["token_type"] = "Bearer",
        }
        : new JsonObject { ["active"] = false };

    /// <summary>Why a bearer token is refused; null when it is good. Counts as one use.</summary>
    public string? WhyRefused(string token, DateTimeOffset now, string? tenant = null)
    {
        if (!_issued.TryGetValue(token, out var issued))
            return "the token was not issued here";
        if (tenant is not null && issued.Client.StartsWith("tenant-", StringComparison.Ordinal) && issued.Client != "tenant-" + tenant)
            return "the token was issued for another tenant";
        if (now >= issued.Expires)
            return "the token has expired";
        if (_options.TokenUses > 0 && Interlocked.Increment(ref issued.Uses) > _options.TokenUses)
            return "the token was withdrawn";
        return null;
    }

    /// <summary>The public key as a JSON Web Key Set (RFC 7517).</summary>
    public JsonObject KeySet()
    {
        var key = _key.ExportParameters(includePrivateParameters: false);
        var only = new JsonObject
        {
            ["kty"] = "EC",
            ["use"] = "sig",
            ["alg"] = "ES256",
            ["kid"] = "brackwater-1",
            ["crv"] = "P-256",
            ["x"] = Base64UrlEncoder.Encode(key.Q.X),
            ["y"] = Base64UrlEncoder.Encode(key.Q.Y),
        };
        return new JsonObject { ["keys"] = new JsonArray(only) };
    }

    public void Dispose() => _key.Dispose();

    private sealed class Issued(string client, string subject, string scope, DateTimeOffset expires)
    {
        public int Uses;

        public string Client { get; } = client;

        public string Subject { get; } = subject;

        public string Scope { get; } = scope;

        public DateTimeOffset Expires { get; } = expires;
    }
}
