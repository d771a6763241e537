using Cursiva.Core.Runs;
using Cursiva.Core.Tables;

namespace Cursiva.Cli.Rendering;

/// <summary>A run of the past, as JSON tells it.</summary>
/// <param name="ExitCode">Of its last start; null while it never ended in an orderly way.</param>
/// <param name="TookS">Seconds that its starts took together.</param>
/// <param name="Landing">The folder with its rows; null when they were removed.</param>
internal sealed record RunLine(
    int Run,
    RunPhase State,
    DateTimeOffset StartedAt,
    DateTimeOffset? EndedAt,
    int? ExitCode,
    string? Note,
    bool Full,
    IReadOnlyDictionary<string, string> Inputs,
    long Requests,
    double TookS,
    IReadOnlyDictionary<string, long> Rows,
    IReadOnlyList<PullFacts> Pulls,
    IReadOnlyDictionary<string, KnownColumn[]> Columns,
    long Skipped,
    IReadOnlyList<SkipLine> Skips,
    IReadOnlyList<string> Warnings,
    string? Landing,
    RunFigures Figures,
    IReadOnlyList<Core.Identity.Expiry> Expiries)
{
    public static RunLine Of(RunRecord run, string? landing) => new(
        run.Number, run.Phase, run.StartedAt, run.EndedAt, run.Outcome, run.Note, run.Full, run.Inputs, run.Requests, run.Took.TotalSeconds, run.Rows, run.Ends, run.Columns, run.Skipped, run.Skips, run.Warnings, landing, run.Figures, run.Expiries);
}
