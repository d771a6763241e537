using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Checks;

/// <summary>Looks at the keys of an encrypted or signed exchange: whether they are there and of use, and what ends soon.</summary>
/// <param name="kind"><c>identity</c> or <c>api</c>.</param>
/// <param name="trust">The certificate authorities that are trusted where a key set is fetched; null for those of the machine.</param>
internal sealed class ExchangeProbe(string kind, string name, SignInServices services, string? trust)
{
    /// <summary>The keys of an exchange, and what they are used for.</summary>
    public static IReadOnlyList<(KeySource Key, KeyUse Use)> KeysOf(BodyEncryption? encryption, Signatures? signatures)
    {
        var keys = new List<(KeySource, KeyUse)>();
        if (encryption?.Key is { } sealing)
            keys.Add((sealing, KeyUse.Encrypt));
        if (encryption?.OpenWith is { } opening)
            keys.Add((opening, KeyUse.Open));
        if (signatures?.Requests?.Key is { } signing)
            keys.Add((signing, KeyUse.Sign));
        if (signatures?.Answers?.Key is { } verifying)
            keys.Add((verifying, KeyUse.Verify));
        if (signatures?.Rows?.Key is { } rows)
            keys.Add((rows, KeyUse.Verify));
        return keys;
    }

    /// <summary>A line for each key that cannot be used, or whose certificate is looked at.</summary>
    public async Task<IReadOnlyList<LiveLine>> EndsAsync(IReadOnlyList<(KeySource Key, KeyUse Use)> keys, CancellationToken cancel)
    {
        var lines = new List<LiveLine>();
        using var ring = new KeyRing(services, trust);
        foreach (var (source, use) in keys)
        {
            try
            {
                foreach (var key in await ring.ReadAsync(source, use, cancel))
                    lines.Add(
                        key.Certificate is { } certificate
                            ? Ends(source, certificate.NotAfter.ToUniversalTime())
                            : Line(LiveVerdict.Ok, $"{source}: a {key.Words}"));
            }
            catch (RefusedException error)
            {
                lines.Add(LiveLine.Of(kind, name, "key", error.Refusal));
            }
        }

        return lines;
    }

    private LiveLine Ends(KeySource source, DateTimeOffset end)
    {
        var left = end - services.Clock.GetUtcNow();
        return Line(
            left < Expiry.Soon ? LiveVerdict.Notice : LiveVerdict.Ok,
            $"the certificate of {source} expires in {(int)left.TotalDays} days, on {end:yyyy-MM-dd}",
            left < Expiry.Soon ? "ask the other side for its successor" : null);
    }

    private LiveLine Line(LiveVerdict state, string says, string? next = null) => new(kind, name, "key", state, says, next);
}
