using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>What can be asked about tokens that exist: their signature, their meaning to the server, and that they end.</summary>
public sealed class TokenDesk(DeclaredIdentity identity, SignInServices services)
{
    private static readonly TimeSpan s_timeout = TimeSpan.FromSeconds(20);
    private const int LargestAnswer = 1024 * 1024;

    /// <summary>Checks a signature against the server's keys.</summary>
    /// <returns>Whether it holds, or null when it cannot be told, and how that is known.</returns>
    public async Task<(bool? Holds, string Says)> CheckSignatureAsync(Jwt token, CancellationToken cancel)
    {
        var sender = services.Senders.For(identity.Trust);
        try
        {
            if (await new Endpoints(identity, sender, services.Requests, services.Redactor).JwksAsync(cancel) is not { } address)
                return (null, "not checked: neither issuer: nor jwks-uri: leads to the server's keys");
            var request = new Request(HttpMethod.Get, address, [new("Accept", "application/json")]);
            using var answer = await sender.SendAsync(request, new Patience(s_timeout, LargestAnswer), cancel);
            services.Requests.Answered(request, answer.Status, answer.Took);
            if (!answer.IsSuccess || TokenAnswer.Read(answer.Body).Json is not { } keys)
                return (null, $"not checked: {address} answered with status {answer.Status} and without a key set");
            return TokenSignature.Check(token, keys) switch
            {
                true => (true, $"valid, with a key of {address}"),
                false => (false, $"not valid: it was not made with the key that the token names, of {address}"),
                null => (null, $"not checked: {address} has no key for this token"),
            };
        }
        catch (TransportException error)
        {
            return (null, $"not checked: the server's keys cannot be reached ({error.Message})");
        }
        catch (RefusedException error)
        {
            return (null, $"not checked: {error.Refusal.What}");
        }
    }

    /// <summary>What the server says of a token (RFC 7662); null when no introspection endpoint is known.</summary>
    /// <exception cref="RefusedException">The server refused.</exception>
    public async Task<JsonElement?> IntrospectAsync(string token, CancellationToken cancel)
    {
        using var endpoint = await TokenEndpoint.OpenAsync(identity, services, cancel);
        if (await endpoint.Endpoints.IntrospectionAsync(cancel) is not { } address)
            return null;
        services.Redactor.Remember(token);
        return (await endpoint.SendAsync(address, [new("token", token)], Circumstances.None, cancel)).Good().Json;
    }

    /// <summary>Has the tokens of the identity taken back (RFC 7009), and removes them here.</summary>
    /// <returns>What was taken back, in words; empty when nothing was kept.</returns>
    /// <exception cref="RefusedException">The server refused; what was kept stays.</exception>
    public async Task<IReadOnlyList<string>> RevokeAsync(CancellationToken cancel)
    {
        using var endpoint = await TokenEndpoint.OpenAsync(identity, services, cancel);
        var address = await endpoint.Endpoints.RevocationAsync(cancel);
        var tokens = new RefreshTokens(identity, services);
        await using var turn = await tokens.TurnAsync(cancel);
        var name = identity.Refreshes ? await tokens.NameAsync(cancel) : null;
        var cache = new TokenCache(identity, name, services);
        var revoked = new List<string>();
        if (name is not null && await services.Store.ReadAsync(name, cancel) is { } refresh)
        {
            await RevokeAsync(endpoint, address, services.Redactor.Remember(refresh).Reveal(), "refresh_token", cancel);
            await tokens.RemoveRevokedAsync(cancel);
            revoked.Add($"the refresh token stored as '{name}'");
        }

        if (await cache.ReadAsync(cancel) is { } kept)
        {
            await RevokeAsync(endpoint, address, services.Redactor.Remember(kept.Value).Reveal(), "access_token", cancel);
            await cache.DropAsync(cancel);
            revoked.Add("the access token of the last sign-in");
        }

        return revoked;
    }

    private static async Task RevokeAsync(TokenEndpoint endpoint, Uri address, string token, string kind, CancellationToken cancel)
    {
        var reply = await endpoint.SendAsync(address, [new("token", token), new("token_type_hint", kind)], Circumstances.None, cancel);

        // RFC 7009 section 2.2: success has no content that counts.
        if (reply.Refusal is { Diagnosis: not "answer-not-understood" })
            throw new RefusedException(reply.Refusal);
    }
}
