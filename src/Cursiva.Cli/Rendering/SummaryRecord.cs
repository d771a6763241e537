using Cursiva.Core.Runs;

namespace Cursiva.Cli.Rendering;

/// <summary>The summary of a run, as JSON tells it. WaitedS and TookS are seconds.</summary>
internal sealed record SummaryRecord(
    int Run,
    int ExitCode,
    string? What,
    string? Cause,
    string? NextStep,
    IReadOnlyList<SummaryRecord.PullLine> Pulls,
    long Requests,
    long Retries,
    double WaitedS,
    double TookS,
    IReadOnlyList<SummaryRecord.FileLine> Files,
    IReadOnlyList<SkipLine> Skips,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<LedgerLine> Deliveries)
{
    internal sealed record PullLine(
        string Pull, long Rows, long Pages, long RowsBefore, long Strands, long Skips, long? Expected, string? Ended, bool? Proven);

    internal sealed record FileLine(string Path, long Rows, long Bytes);
}
