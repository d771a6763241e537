namespace Cursiva.Core.Http;

/// <summary>Exponential backoff with full jitter: a random time from zero to a bound that doubles with every attempt.</summary>
/// <param name="random">Gives numbers from 0 up to 1.</param>
public sealed class Backoff(Func<double> random)
{
    private static readonly TimeSpan s_first = TimeSpan.FromMilliseconds(500);
    private static readonly TimeSpan s_largest = TimeSpan.FromSeconds(30);

    /// <summary>The wait after attempt <paramref name="attempt"/> (from 1) failed, at most 30 s.</summary>
    public TimeSpan After(int attempt)
    {
        var bound = Math.Min(s_largest.TotalSeconds, s_first.TotalSeconds * Math.Pow(2, Math.Min(attempt - 1, 30)));
        return TimeSpan.FromSeconds(bound * random());
    }
}
