using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>
/// Signs a person in once and keeps the refresh token for the job, or, where none came, the access token until it ends: by authorization
/// code with PKCE (RFC 6749 section 4.1, RFC 7636)
/// or by device code (RFC 8628).
/// </summary>
public sealed class PersonSignIn(DeclaredIdentity identity, SignInServices services, IPerson person)
{
    private static readonly TimeSpan s_usualInterval = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan s_slowDown = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan s_lastMoment = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan s_usualEnd = TimeSpan.FromMinutes(15);

    /// <summary>Signs in by authorization code.</summary>
    /// <param name="paste">Whether the answer is pasted instead of listened for.</param>
    /// <exception cref="RefusedException">The sign-in was refused.</exception>
    public async Task<SignInResult> ByCodeAsync(bool paste, CancellationToken cancel)
    {
        using var endpoint = await TokenEndpoint.OpenAsync(identity, services, cancel);
        var authorization = await endpoint.Endpoints.AuthorizationAsync(cancel);
        using var listener = Listens(paste) ? LoopbackListener.Start(identity.RedirectUri) : null;
        var redirect = listener?.Address ?? LoopbackListener.FreeAddress(identity.RedirectUri);
        var state = Base64UrlText.Write(RandomNumberGenerator.GetBytes(24));
        var verifier = services.Redactor.Remember(Base64UrlText.Write(RandomNumberGenerator.GetBytes(48))).Reveal();
        person.Visit(await AddressAsync(authorization, redirect, state, verifier, cancel), redirect);

        var text = listener is null ? await person.PasteAsync(cancel) : await listener.WaitAsync(state, cancel);
        var answer = PersonAnswer.Read(text, state, identity.Issuer, await endpoint.Endpoints.NamesIssuerAsync(cancel));
        services.Redactor.Remember(answer.Code);
        var reply = await endpoint.AskAsync(
            [
                new("grant_type", Grants.AuthorizationCode),
                new("code", answer.Code),
                new("redirect_uri", redirect.OriginalString),
                new("code_verifier", verifier),
            ],
            Circumstances.Redeeming,
            cancel);
        return await KeepAsync(reply, cancel);
    }

    /// <summary>Signs in by device code.</summary>
    /// <exception cref="RefusedException">The sign-in was refused, or nobody confirmed in time.</exception>
    public async Task<SignInResult> ByDeviceAsync(CancellationToken cancel)
    {
        using var endpoint = await TokenEndpoint.OpenAsync(identity, services, cancel);
        List<KeyValuePair<string, string>> parameters = [];
        if (identity.Scope.Count > 0)
            parameters.Add(new("scope", string.Join(' ', identity.Scope)));
        parameters.AddRange(await FurtherAsync(cancel));
        var begun = (await endpoint.SendAsync(
            await endpoint.Endpoints.DeviceAuthorizationAsync(cancel), parameters, Circumstances.None, cancel)).Good();
        if (begun.Text("device_code") is not { } device
            || begun.Text("user_code") is not { } code
            || !Uri.TryCreate(begun.Text("verification_uri") ?? begun.Text("verification_url"), UriKind.Absolute, out var address)
            || !IsWeb(address))
            throw new RefusedException(
                Catalogue.Refuse(
                    new Facts(Desk.SignIn, Trouble.NotUnderstood, 200),
                    "the device authorization endpoint's answer lacks device_code, user_code or verification_uri"));

        services.Redactor.Remember(device);
        var within = begun.ExpiresIn ?? s_usualEnd;
        person.Enter(
            code,
            address,
            Uri.TryCreate(begun.Text("verification_uri_complete"), UriKind.Absolute, out var complete) && IsWeb(complete) ? complete : null,
            within);
        return await KeepAsync(
            await PollAsync(endpoint, device, begun.Seconds("interval") ?? s_usualInterval, services.Clock.GetUtcNow() + within, cancel),
            cancel);
    }

    private async Task<TokenReply> PollAsync(
        TokenEndpoint endpoint, string device, TimeSpan interval, DateTimeOffset end, CancellationToken cancel)
    {
        while (true)
        {
            if (services.Clock.GetUtcNow() + interval > end)
                throw new RefusedException(
                    Catalogue.Refuse(
                        new Facts(Desk.SignIn, Trouble.Status, 400, "expired_token"),
                        interval >= s_usualEnd
                            ? $"the server asks for {Durations.ForPeople(interval)} between two polls, but the device code expires earlier"
                            : "nobody confirmed the device code in time"));
            await Waits.DelayAsync(interval, services.Clock, cancel);
            var reply = await endpoint.AskAsync(
                [new("grant_type", Grants.DeviceCode), new("device_code", device)], Circumstances.Polling, cancel);
            if (reply.Error is not ("authorization_pending" or "slow_down"))
                return reply;
            if (reply.Error == "slow_down")
                interval += s_slowDown;
            if (services.Clock.GetUtcNow() > end)
                throw new RefusedException(
                    Catalogue.Refuse(
                        new Facts(Desk.SignIn, Trouble.Status, 400, "expired_token"), "nobody confirmed the device code in time"));
        }
    }

    /// <summary>Whether a browser may be sent to an address: https, or http on the loopback address.</summary>
    public static bool IsWeb(Uri address) => address.Scheme == "https" || address is { Scheme: "http", IsLoopback: true };

    private bool Listens(bool paste) =>
        !paste && (identity.RedirectUri is null || identity.RedirectUri is { Scheme: "http", IsLoopback: true });

    private async Task<Uri> AddressAsync(Uri authorization, Uri redirect, string state, string verifier, CancellationToken cancel)
    {
        List<KeyValuePair<string, string>> query =
        [
            new("response_type", "code"), new("client_id", identity.ClientId), new("redirect_uri", redirect.OriginalString), new(
                "state", state),
            new("code_challenge", Base64UrlText.Write(SHA256.HashData(Encoding.ASCII.GetBytes(verifier)))), new(
                "code_challenge_method", "S256"),
        ];
        if (identity.Scope.Count > 0)
            query.Add(new("scope", string.Join(' ', identity.Scope)));
        query.AddRange(await FurtherAsync(cancel));
        var text = string.Join('&', query.Select(pair => $"{Uri.EscapeDataString(pair.Key)}={Uri.EscapeDataString(pair.Value)}"));
        return new UriBuilder(authorization) { Query = authorization.Query.Length > 1 ? authorization.Query[1..] + "&" + text : text }.Uri;
    }

    private async Task<List<KeyValuePair<string, string>>> FurtherAsync(CancellationToken cancel)
    {
        var further = new List<KeyValuePair<string, string>>();
        foreach (var (name, value) in identity.AuthorizationParameters)
            further.Add(new(name, (await services.Secrets.ReadAsync(value, cancel)).Reveal()));
        return further;
    }

    private async Task<SignInResult> KeepAsync(TokenReply reply, CancellationToken cancel)
    {
        var answer = reply.Good();
        var facts = new TokenMaker(identity, services.Secrets, services.Redactor, services.Clock).Read(reply);

        // RFC 6749 section 5.1: a server that names no scope granted what was asked for.
        IReadOnlyList<string> granted = answer.Scope is null
            ? identity.Scope
            : answer.Scope.Split([' ', ','], StringSplitOptions.RemoveEmptyEntries);
        var tokens = new RefreshTokens(identity, services);
        await using var turn = await tokens.TurnAsync(cancel);
        if (answer.RefreshToken is not { Length: > 0 } refresh)
        {
            // Nothing can renew it, so it is used for as long as it is good.
            var until = reply.AskedAt + facts.Lifetime - s_lastMoment;
            await new TokenCache(identity, await tokens.NameAsync(cancel), services).WriteAsync(
                facts with { RenewAt = until }, CancellationToken.None);
            return new SignInResult(null, identity.Scope, granted, until);
        }

        await tokens.KeepAsync(refresh, CancellationToken.None);
        await tokens.UnmarkAsync(CancellationToken.None);
        var name = await tokens.NameAsync(cancel);
        await new TokenCache(identity, name, services).DropAsync(CancellationToken.None);
        return new SignInResult(name, identity.Scope, granted, null);
    }
}
