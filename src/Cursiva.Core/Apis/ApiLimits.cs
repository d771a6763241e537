using System.Globalization;
using Cursiva.Core.Jobs;
using Cursiva.Core.State;

namespace Cursiva.Core.Apis;

/// <summary>The windows in which an API counts the requests of a client.</summary>
internal static class ApiLimits
{
    /// <summary>The declared limits as slots: the same for all jobs and processes of one client, whatever else they declare.</summary>
    public static IReadOnlyList<SlotWindow> WindowsOf(Api api, DeclaredIdentity? identity)
    {
        string Key(string window) => DeclarationKey.Of([api.Base.AbsoluteUri.TrimEnd('/'), Client(identity), window]);
        List<SlotWindow> windows = [.. api.Limits.Kept.Select(
            rate => new SlotWindow(
                Key(rate.Window.TotalSeconds.ToString("0.###", CultureInfo.InvariantCulture)), rate.Count, rate.Window))];
        if (api.Limits.AtOnce is { } atOnce)
            windows.Add(new SlotWindow(Key("at once"), Math.Max(1, (int)(atOnce * api.Limits.Share)), TimeSpan.Zero));
        return windows;
    }

    /// <summary>Names API and client, the same in every process.</summary>
    public static string ClientOf(Api api, DeclaredIdentity? identity) =>
        DeclarationKey.Of([api.Base.AbsoluteUri.TrimEnd('/'), Client(identity), "pause"]);

    // Whom the API counts: the client at its authorization server; for a fixed header, its value.
    private static string? Client(DeclaredIdentity? identity) => identity is null ? null : DeclarationKey.Of(
        [
            (identity.TokenEndpoint ?? identity.Issuer)?.AbsoluteUri,
            identity.ClientId,
            .. identity.Grant == Grants.Header ? identity.Secrets.Select(source => source.Text) : [],
        ]);
}
