namespace Cursiva.Core.Identity;

/// <summary>Something that a job needs and that ends by itself: a secret, a certificate, a refresh token.</summary>
/// <param name="Kind">What it is: secret, certificate or refresh token.</param>
/// <param name="Of">Whose it is, for people.</param>
/// <param name="At">When it ends, in UTC.</param>
/// <param name="NextStep">What is to be done before.</param>
public sealed record Expiry(string Kind, string Of, DateTimeOffset At, string NextStep)
{
    /// <summary>What ends sooner than this is told.</summary>
    public static readonly TimeSpan Soon = TimeSpan.FromDays(30);

    /// <summary>Whether it is told at a time.</summary>
    public bool IsSoon(DateTimeOffset now) => At - now < Soon;

    /// <summary>Whole days that are left at a time; negative once it has ended.</summary>
    public int DaysLeft(DateTimeOffset now) => (int)Math.Floor((At - now).TotalDays);

    /// <summary>One sentence for people.</summary>
    public string Words(DateTimeOffset now) => At <= now
        ? $"the {Kind} {Of} expired on {At:yyyy-MM-dd}"
        : $"the {Kind} {Of} expires in {DaysLeft(now)} {(DaysLeft(now) == 1 ? "day" : "days")}, on {At:yyyy-MM-dd}";
}
