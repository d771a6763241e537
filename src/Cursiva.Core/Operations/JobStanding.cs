using Cursiva.Core.Apis;
using Cursiva.Core.Identity;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Operations;

/// <summary>How a job stands.</summary>
/// <param name="State">One word: done, running, late, failed, stopped, never ran, gone.</param>
/// <param name="Path">Its file.</param>
public sealed record JobStanding(string Job, string Title, string State, string Path)
{
    /// <summary>Its last run; null where it never ran.</summary>
    public HistoryLine? Last { get; init; }

    /// <summary>When its last good run ended; null where there was none in the time that is looked at.</summary>
    public DateTimeOffset? LastGood { get; init; }

    /// <summary>How a run goes that is under way; null for none.</summary>
    public Pulse? Running { get; init; }

    /// <summary>The usual number of rows; null where too few runs tell.</summary>
    public double? UsualRows { get; init; }

    /// <summary>The usual time in seconds; null where too few runs tell.</summary>
    public double? UsualS { get; init; }

    /// <summary>When it runs, or by when a run must be done, as the job says; null where it does not.</summary>
    public string? Schedule { get; init; }

    /// <summary>When it is due next; null where the job does not say.</summary>
    public DateTimeOffset? NextDue { get; init; }

    /// <summary>Whether the next start resumes its last run.</summary>
    public bool Resumable { get; init; }

    /// <summary>Deliveries that have not left.</summary>
    public int Pending { get; init; }

    /// <summary>Deliveries and writes that may have left or not.</summary>
    public int InDoubt { get; init; }

    /// <summary>What ends within 30 days.</summary>
    public IReadOnlyList<Expiry> Expiries { get; init; } = [];

    /// <summary>Bytes on disk.</summary>
    public long Bytes { get; init; }

    /// <summary>How much of its declared limits is in use now.</summary>
    public IReadOnlyList<LimitUse> Limits { get; init; } = [];

    /// <summary>Requests of its runs that began within the last hour.</summary>
    public long RequestsInHour { get; init; }

    /// <summary>Requests of its runs that began within the last 24 hours.</summary>
    public long RequestsInDay { get; init; }

    /// <summary>What somebody has to look at.</summary>
    public IReadOnlyList<JobCondition> Conditions { get; init; } = [];

    /// <summary>Its runs of the time that is looked at, in the order of their starts.</summary>
    public IReadOnlyList<HistoryLine> History { get; init; } = [];
}
