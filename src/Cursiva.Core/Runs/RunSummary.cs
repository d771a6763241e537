using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>How a run ended.</summary>
/// <param name="Run">Its number; 0 when none began.</param>
/// <param name="Refusal">What happened, when it did not finish.</param>
/// <param name="Requests">Requests that servers saw: sign-ins, retries and those without a whole answer included.</param>
/// <param name="Skips">The strands that were skipped; the first thousand.</param>
/// <param name="Waited">Time spent waiting for limits and pauses.</param>
public sealed record RunSummary(
    int Run,
    Outcome Outcome,
    Refusal? Refusal,
    IReadOnlyList<PullCount> Pulls,
    long Requests,
    long Retries,
    TimeSpan Waited,
    TimeSpan Took,
    IReadOnlyList<WrittenFile> Files,
    IReadOnlyList<SkipLine> Skips)
{
    /// <summary>Requests by the status of their answers; under 0 those without a whole one.</summary>
    public IReadOnlyDictionary<int, long> Statuses { get; init; } = new Dictionary<int, long>();

    /// <summary>Seconds by stage of this start.</summary>
    public IReadOnlyDictionary<string, double> StagesS { get; init; } = new Dictionary<string, double>();

    /// <summary>The size of the landing on disk.</summary>
    public long LandedBytes { get; init; }

    /// <summary>What the job needs that ends by itself.</summary>
    public IReadOnlyList<Identity.Expiry> Expiries { get; init; } = [];

    /// <summary>How many strands were skipped.</summary>
    public long Skipped { get; init; }

    /// <summary>How the pulls ended, where they did.</summary>
    public IReadOnlyList<PullFacts> Ends { get; init; } = [];

    /// <summary>What was delivered, and what has not left.</summary>
    public IReadOnlyList<LedgerEntry> Deliveries { get; init; } = [];

    /// <summary>Strands that this machine fetched of a run that another one reports on; null where it reports itself.</summary>
    public long? StrandsHere { get; init; }

    /// <summary>Counted pages and parts of exports that this machine fetched of such a run.</summary>
    public long PagesHere { get; init; }

    /// <summary>What people should know of how the rows came.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];
}
