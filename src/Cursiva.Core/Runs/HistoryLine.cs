namespace Cursiva.Core.Runs;

/// <summary>A run on one line, for those who look over many of them.</summary>
/// <param name="ExitCode">Of its last start; null while it never ended in an orderly way.</param>
/// <param name="TookS">Seconds that its starts took together.</param>
/// <param name="Starts">How often it was started: once, and once more for each time it was resumed.</param>
public sealed record HistoryLine(
    string Job,
    int Run,
    RunPhase State,
    DateTimeOffset StartedAt,
    DateTimeOffset? EndedAt,
    int? ExitCode,
    long Rows,
    long Requests,
    double TookS,
    long Skipped,
    string? Note,
    int Starts)
{
    /// <summary>The line of a run.</summary>
    public static HistoryLine Of(string job, RunRecord run) =>
        new(
            job,
            run.Number,
            run.Phase,
            run.StartedAt,
            run.EndedAt,
            run.Outcome,
            run.Rows.Values.Sum(),
            run.Requests,
            Math.Round(run.Took.TotalSeconds, 3),
            run.Skipped,
            run.Note,
            run.Starts);
}
