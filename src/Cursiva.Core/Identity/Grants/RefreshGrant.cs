using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>
/// The refresh token grant (RFC 6749 section 6) for tokens that the server may replace at every use. The successor is on disk before
/// anyone sees the access token that came with it.
/// </summary>
internal sealed class RefreshGrant(
    DeclaredIdentity identity, TokenEndpoint endpoint, SignInServices services, RefreshTokens tokens) : IGrant
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.RefreshToken,
        SignsIn = true,
        Refreshes = true,
        Needs = () => [IdentityKeys.ClientId],
        Ask = Of,
    };

    /// <summary>What runs live on, however the first refresh token came.</summary>
    public static IGrant Of(GrantParts parts) => new RefreshGrant(parts.Identity, parts.Endpoint, parts.Services, parts.RefreshTokens!);

    public async Task<IAsyncDisposable?> TurnAsync(CancellationToken cancel) => await tokens.TurnAsync(cancel);

    public async Task<TokenReply> AskAsync(CancellationToken cancel)
    {
        var token = await tokens.ReadAsync(cancel);
        while (true)
        {
            // Looked up before the mark, so that as little as possible lies between it and the request.
            await endpoint.Endpoints.TokenAsync(cancel);
            var cutShort = await tokens.WasCutShortAsync(token, cancel);
            if (cutShort)
                services.Watch.Warned(
                    $"identity '{identity.Name}': a process ended while it renewed the sign-in; trying the refresh token once more");

            // From here to the flush of the successor an orderly stop has to wait.
            await tokens.MarkAsync(token, cancel);
            var reply = await SpendAsync(token, cutShort, cancel);
            if (reply.Error != "invalid_grant")
                return reply;

            // Somebody who does not keep to the lock may have replaced it meanwhile.
            var now = await tokens.ReadAsync(cancel);
            if (now == token)
                return reply;
            token = now;
        }
    }

    private async Task<TokenReply> SpendAsync(string token, bool cutShort, CancellationToken cancel)
    {
        var sent = Circumstances.Refreshing | (cutShort ? Circumstances.CutShort : Circumstances.None);
        endpoint.BeforeSpending = tokens.RequireTurn;
        TokenReply reply;
        try
        {
            reply = await endpoint.AskAsync(
                [new("grant_type", Grants.RefreshToken), new("refresh_token", token)], sent, cancel, isShielded: true);
        }
        catch (RefusedException error) when (error.Refusal.Outcome != Outcome.StoppedResumable)
        {
            // Nothing was sent: a secret is missing, for instance. Only the doubt that there was before stays.
            if (!cutShort)
                await tokens.UnmarkAsync(CancellationToken.None);
            throw;
        }

        if (reply.Refusal is null && reply.Answer.RefreshToken is { Length: > 0 } successor && successor != token)
        {
            services.Redactor.Remember(successor);
            await tokens.ReplaceAsync(token, successor, CancellationToken.None);
        }
        else if (reply.Refusal is null)
        {
            await tokens.ExtendAsync(token, CancellationToken.None);
        }

        // A server that answered has not left us in doubt.
        if (cutShort && reply.Error == "invalid_grant")
            await tokens.LoseAsync(token, CancellationToken.None);
        else if (reply.WasAnswered)
            await tokens.UnmarkAsync(CancellationToken.None);
        return reply;
    }
}
