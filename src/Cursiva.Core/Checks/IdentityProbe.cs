using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Checks;

/// <summary>Signs in as one identity and looks at what came: token, claims, permissions, clocks, and what ends soon.</summary>
internal sealed class IdentityProbe(DeclaredIdentity identity, SignInServices services)
{
    private static readonly TimeSpan s_clocksDiffer = TimeSpan.FromMinutes(1);

    public async Task<IReadOnlyList<LiveLine>> LookAsync(SignIns signIns, CancellationToken cancel)
    {
        var lines = new List<LiveLine>();
        switch (signIns.Of(identity))
        {
            case TokenSource source:
                await SignInAsync(source, lines, cancel);
                break;
            case FixedHeader fixedHeader:
                await ReadHeaderAsync(fixedHeader, lines, cancel);
                break;
            default:
                lines.Add(Line("token", LiveVerdict.Ok, "nobody signs in"));
                break;
        }

        await EndsAsync(lines, cancel);
        return lines;
    }

    private async Task SignInAsync(TokenSource source, List<LiveLine> lines, CancellationToken cancel)
    {
        AccessToken token;
        try
        {
            token = await source.GetFreshAsync(cancel);
        }
        catch (RefusedException error)
        {
            lines.Add(LiveLine.Of("identity", identity.Name, IsTransport(error.Refusal) ? "endpoint" : "token", error.Refusal));
            if (lines[^1].Step == "endpoint")
                lines.Add(Line("token", LiveVerdict.Failed, "none was obtained") with { Refusal = error.Refusal });
            return;
        }

        var place = identity.TokenEndpoint ?? identity.Issuer!;
        lines.Add(
            Line(
                "endpoint",
                LiveVerdict.Ok,
                place.Scheme == "https"
                    ? $"{place.Host} answers, and its certificate is trusted"
                    : $"{place.Authority} answers, over plain http on this machine"));
        lines.Add(Line("token", LiveVerdict.Ok, $"obtained with {identity.Grant}, valid for {Durations.ForPeople(token.Lifetime)}"));
        if (token.SessionKey is { } session)
            lines.Add(
                Line(
                    "session key",
                    LiveVerdict.Ok,
                    $"{session.Bytes.Length * 8} bits, decrypted{(session.Ends is { } end ? $", valid until {end:yyyy-MM-dd HH:mm}Z" : ", valid as long as the token")}"));
        if (source.ClockDifference is { } difference)
        {
            lines.Add(difference.Duration() <= s_clocksDiffer
                ? Line("clock", LiveVerdict.Ok, "the server's clock and this machine's agree")
                : Line(
                    "clock",
                    LiveVerdict.Notice,
                    $"the server's clock is {Durations.ForPeople(difference.Duration())} {(difference > TimeSpan.Zero ? "ahead of" : "behind")} this machine's",
                    "set this machine's clock: timedatectl set-ntp true"));
        }

        Compare(token, lines);
    }

    private void Compare(AccessToken token, List<LiveLine> lines)
    {
        if (Jwt.TryRead(token.Value.Reveal()) is not { } jwt)
        {
            if (identity.Permissions.Count + identity.Claims.Count > 0)
                lines.Add(
                    Line(
                        "claims",
                        LiveVerdict.Notice,
                        "the token is opaque: its claims and permissions cannot be compared here",
                        "cursiva token read --job JOB asks the server, if it offers introspection"));
            return;
        }

        foreach (var compared in TokenExpectation.Compare(identity, jwt, token.Scope))
            lines.Add(
                Line(compared.Claim, compared.Holds ? LiveVerdict.Ok : LiveVerdict.Failed, compared.Says, compared.NextStep) with
                {
                    Lacks = compared is { Holds: false, IsPermission: true } ? compared.Expected : null,
                });
        if (TokenExpectation.Beyond(identity, jwt, token.Scope) is { Count: > 0 } beyond)
            lines.Add(
                Line(
                    "permissions",
                    LiveVerdict.Notice,
                    $"has more than the job declares: {string.Join(", ", beyond)}",
                    "ask for what the job does not need to be withdrawn, or declare it under permissions:"));
    }

    private async Task ReadHeaderAsync(FixedHeader header, List<LiveLine> lines, CancellationToken cancel)
    {
        try
        {
            await header.GetAsync(cancel);
            lines.Add(Line("token", LiveVerdict.Ok, $"the value of the header {identity.Presentation.Header} exists"));
        }
        catch (RefusedException error)
        {
            lines.Add(LiveLine.Of("identity", identity.Name, "token", error.Refusal));
        }
    }

    // What ends by itself one night should be known days before.
    private async Task EndsAsync(List<LiveLine> lines, CancellationToken cancel)
    {
        foreach (var expiry in await new Expiries(services).OfAsync(identity, cancel))
            lines.Add(Ends(expiry));
        if (identity.Encryption is { } encryption)
            lines.AddRange(
                await new ExchangeProbe("identity", identity.Name, services, identity.Trust).EndsAsync(
                    [(encryption.Key, KeyUse.Encrypt)], cancel));
    }

    private LiveLine Ends(Expiry expiry)
    {
        var now = services.Clock.GetUtcNow();
        return expiry.At <= now
            ? Line(expiry.Kind, LiveVerdict.Failed, $"{expiry.Of} expired on {expiry.At:yyyy-MM-dd}", expiry.NextStep)
            : Line(
                expiry.Kind,
                expiry.IsSoon(now) ? LiveVerdict.Notice : LiveVerdict.Ok,
                $"{expiry.Of} expires in {expiry.DaysLeft(now)} days, on {expiry.At:yyyy-MM-dd}",
                expiry.IsSoon(now) ? expiry.NextStep : null);
    }

    private static bool IsTransport(Refusal refusal) =>
        Catalogue.Entries.FirstOrDefault(
            entry => entry.Id == refusal.Diagnosis) is { Trouble: not (Trouble.Status or Trouble.NotUnderstood) };

    private LiveLine Line(string step, LiveVerdict state, string says, string? next = null) =>
        new("identity", identity.Name, step, state, says, next);
}
