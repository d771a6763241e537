namespace Cursiva.Core.Runs;

/// <summary>How a run goes that a process is at, as it tells the others about once a second.</summary>
/// <param name="Process">The number of the process.</param>
/// <param name="At">When this was written, in UTC.</param>
/// <param name="Doing">What it is at, besides pulls.</param>
public sealed record Pulse(
    string Job,
    int Run,
    int Process,
    string Machine,
    DateTimeOffset StartedAt,
    DateTimeOffset At,
    string Doing,
    IReadOnlyList<PulledSoFar> Pulls,
    long Requests,
    long Retries,
    double WaitedS)
{
    /// <summary>After so long without a word nobody is at it any more.</summary>
    public static readonly TimeSpan Silence = TimeSpan.FromSeconds(15);

    /// <summary>Whether somebody is at the run at a time.</summary>
    public bool IsAlive(DateTimeOffset now) => (now - At).Duration() < Silence;
}
