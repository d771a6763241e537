using System.Collections.Concurrent;
using System.Security.Claims;
using System.Security.Cryptography;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Access;

/// <summary>Issues access tokens and knows which of them are good.</summary>
public sealed class TokenDesk : IDisposable
{
    private readonly RSA _key = RSA.Create(2048);
    private readonly ConcurrentDictionary<string, Issued> _issued = new(StringComparer.Ordinal);
    private readonly StandInOptions _options;
    private readonly SigningCredentials _credentials;

    public TokenDesk(StandInOptions options)
    {
        _options = options;
        _credentials = new SigningCredentials(new RsaSecurityKey(_key) { KeyId = "brackwater-1" }, SecurityAlgorithms.RsaSha256);
    }

    /// <summary>A signed JWT (RFC 9068) for the client.</summary>
    public string Issue(string issuer, string clientId, string scope, DateTimeOffset now)
    {
        var token = new JsonWebTokenHandler { SetDefaultTimesOnTokenCreation = false }.CreateToken(new SecurityTokenDescriptor
        {
            Issuer = issuer,
            Audience = "https://api.brackwater.example",
            IssuedAt = now.UtcDateTime,
            NotBefore = now.UtcDateTime,
            Expires = now.UtcDateTime + _options.TokenLifetime,
            TokenType = "at+jwt",
            SigningCredentials = _credentials,
            Claims = new Dictionary<string, object>
            {
                [JwtRegisteredClaimNames.Sub] = clientId,
                ["client_id"] = clientId,
                ["scope"] = scope,
                ["roles"] = new[] { "Consignments.Read.All" },
                ["tenant"] = "brackwater",
                [JwtRegisteredClaimNames.Jti] = Guid.NewGuid().ToString("n"),
            },
        });
        _issued[token] = new Issued(now + _options.TokenLifetime);
        return token;
    }

    /// <summary>Why a bearer token is refused; null when it is good. Counts as one use.</summary>
    public string? WhyRefused(string token, DateTimeOffset now)
    {
        if (!_issued.TryGetValue(token, out var issued))
            return "the token was not issued here";
        if (now >= issued.Expires)
            return "the token has expired";
        if (_options.TokenUses > 0 && Interlocked.Increment(ref issued.Uses) > _options.TokenUses)
            return "the token was withdrawn";
        return null;
    }

    /// <summary>The public key as a JSON Web Key Set (RFC 7517).</summary>
    public object KeySet()
    {
        var key = _key.ExportParameters(includePrivateParameters: false);
        return new
        {
            keys = new[]
            {
                new
                {
                    kty = "RSA",
                    use = "sig",
                    alg = "RS256",
                    kid = "brackwater-1",
                    n = Base64UrlEncoder.Encode(key.Modulus),
                    e = Base64UrlEncoder.Encode(key.Exponent),
                },
            },
        };
    }

    public void Dispose() => _key.Dispose();

    private sealed class Issued(DateTimeOffset expires)
    {
        public int Uses;

        public DateTimeOffset Expires { get; } = expires;
    }
}
