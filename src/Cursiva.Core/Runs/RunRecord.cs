using System.Text.Json.Serialization;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>What is recorded of a run.</summary>
/// <param name="Number">From 1, within the job.</param>
/// <param name="StartedAt">When it began; relative times of its inputs are told from here, however often it is resumed.</param>
/// <param name="Period">What it is about in time, see <see cref="Job.Period"/>.</param>
/// <param name="LandingFormat">The version of its landing on disk.</param>
public sealed record RunRecord(int Number, DateTimeOffset StartedAt, string Period, int LandingFormat)
{
    /// <summary>Where the run stands.</summary>
    [JsonPropertyName("state")]
    public RunPhase Phase { get; init; } = RunPhase.Running;

    /// <summary>What shaped the rows of each pull, by its name, see <see cref="Job.PullPrints"/>.</summary>
    public Dictionary<string, string> PullPrints { get; init; } = [];

    /// <summary>When it ended, in UTC; null while it runs or after a kill.</summary>
    public DateTimeOffset? EndedAt { get; init; }

    /// <summary>The exit code of its last start; null while it never ended in an orderly way.</summary>
    public int? Outcome { get; init; }

    /// <summary>What happened, when it did not finish.</summary>
    public string? Note { get; init; }

    /// <summary>Rows landed, by pull.</summary>
    public Dictionary<string, long> Rows { get; init; } = [];

    /// <summary>Columns found, by pull.</summary>
    public Dictionary<string, KnownColumn[]> Columns { get; init; } = [];

    /// <summary>
    /// How far incremental pulls have got, by pull and the values of their strands; of a finished run, also from those before.
    /// </summary>
    public Dictionary<string, Dictionary<string, string>> Marks { get; init; } = [];

    /// <summary>
    /// Strands that lost their place and started over, by pull and their values: their rows of earlier runs no longer count.
    /// </summary>
    public Dictionary<string, string[]> Anew { get; init; } = [];

    /// <summary>The inputs that it was given, those aside that are told from its start.</summary>
    public Dictionary<string, string> Inputs { get; init; } = [];

    /// <summary>When its last row had landed; null while rows are missing.</summary>
    public DateTimeOffset? LandedAt { get; init; }

    /// <summary>What readers of its reports should know of how its rows came.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>The files of reports that have one for each value, by report.</summary>
    public Dictionary<string, string[]> FilesPer { get; init; } = [];

    /// <summary>How its pulls ended.</summary>
    public IReadOnlyList<PullFacts> Ends { get; init; } = [];

    /// <summary>What was skipped; the first thousand.</summary>
    public IReadOnlyList<SkipLine> Skips { get; init; } = [];

    /// <summary>How much was skipped.</summary>
    public long Skipped { get; init; }

    /// <summary>What the next run compares its reports with.</summary>
    public ReportTotals Reports { get; init; } = ReportTotals.None;

    /// <summary>Whether it asked for everything, whatever earlier runs brought.</summary>
    public bool Full { get; init; }

    /// <summary>Whether several machines may work on it.</summary>
    public bool Together { get; init; }

    /// <summary>Whether somebody asked it to stop, on all machines.</summary>
    public bool StopAsked { get; init; }

    /// <summary>How often it was started: once, and once more for each time it was resumed.</summary>
    public int Starts { get; init; } = 1;

    /// <summary>Requests that servers saw, those without a whole answer included, over all its starts.</summary>
    public long Requests { get; init; }

    /// <summary>How long its starts took together.</summary>
    public TimeSpan Took { get; init; }

    /// <summary>What was counted of it.</summary>
    public RunFigures Figures { get; init; } = RunFigures.None;

    /// <summary>What it needs that ends by itself, as it was known then.</summary>
    public IReadOnlyList<Identity.Expiry> Expiries { get; init; } = [];

    /// <summary>
    /// The pulls whose rows of this run and of those before it are folded into one landing, see <see cref="JobFolder.FoldOf"/>.
    /// </summary>
    public string[] Folded { get; init; } = [];

    /// <summary>Whether rows of earlier runs do not count for a pull.</summary>
    public bool AskedForAll(Pull pull) => Full || (!pull.Repeats && IsAnew(pull.Name, LandedStrand.NoValues));

    /// <summary>This run, with a strand that starts over.</summary>
    public RunRecord WithAnew(string pull, string strand) =>
        IsAnew(pull, strand) ? this : this with { Anew = new(Anew) { [pull] = [.. Anew.GetValueOrDefault(pull) ?? [], strand] } };

    /// <summary>Whether a strand started over.</summary>
    public bool IsAnew(string pull, string strand) => Anew.GetValueOrDefault(pull)?.Contains(strand) == true;

    /// <summary>Whether nothing of it is to be resumed.</summary>
    public bool IsFinished => Phase is RunPhase.Done or RunPhase.SetAside;

    /// <summary>Whether it is over for every machine that works on it. One that only left has left it to the others.</summary>
    public bool IsOver => IsFinished
        || (Phase == RunPhase.Stopped
            && (StopAsked
                || (Refusals.Outcome?)Outcome is not (Refusals.Outcome.Interrupted or Refusals.Outcome.Terminated or Refusals.Outcome.StoppedResumable)));
}
