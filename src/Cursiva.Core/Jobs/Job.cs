namespace Cursiva.Core.Jobs;

/// <summary>A job file, read, its inputs filled in.</summary>
/// <param name="Folder">The job file's folder; relative paths in the job start there.</param>
/// <param name="Name">What its history hangs on: <c>name:</c>, or the file's name.</param>
/// <param name="Period">What it is about in time: equal for two readings whose relative inputs, and the day where files are named by it,
/// are the same.</param>
public sealed record Job(
    string Name,
    string Path,
    string Folder,
    string Title,
    TimeZoneInfo Zone,
    Template Out,
    TimeSpan ResumeWithin,
    IReadOnlyList<Input> Inputs,
    IReadOnlyDictionary<string, DeclaredIdentity> Identities,
    IReadOnlyDictionary<string, Api> Apis,
    IReadOnlyList<Pull> Pulls,
    IReadOnlyList<Report> Reports,
    string Period)
{
    /// <summary>A fingerprint of what shapes the rows of each pull, by its name.</summary>
    public IReadOnlyDictionary<string, string> PullPrints { get; init; } = new Dictionary<string, string>();

    /// <summary>A file of variables for those that the environment does not have, or null.</summary>
    public string? EnvFile { get; init; }

    /// <summary>Named SQL, in the job's order.</summary>
    public IReadOnlyList<Query> Queries { get; init; } = [];

    /// <summary>The pulls that are compared with the last good run.</summary>
    public IReadOnlyList<Comparison> Comparisons { get; init; } = [];

    /// <summary>Where reports are taken, in the job's order.</summary>
    public IReadOnlyList<Delivery> Deliveries { get; init; } = [];

    /// <summary>What is changed in APIs, in the job's order.</summary>
    public IReadOnlyList<Write> Writes { get; init; } = [];

    /// <summary>How long one start may take; null for any time.</summary>
    public TimeSpan? Deadline { get; init; }

    /// <summary>Which landings stay on disk.</summary>
    public Keep Keep { get; init; } = Keep.Default;

    /// <summary>When it runs; null where it does not say.</summary>
    public Schedule? Schedule { get; init; }

    /// <summary>By when a run must be done, where something else starts it; null where it does not say.</summary>
    public Schedule? Expected { get; init; }

    /// <summary>The secret sources that the file and what it includes name, as they are written.</summary>
    public IReadOnlyList<SecretSource> NamedSources { get; init; } = [];

    /// <summary>Bytes that SQL may take in memory.</summary>
    public long Memory { get; init; } = 1024L * 1024 * 1024;

    /// <summary>What becomes of a run in which strands were skipped.</summary>
    public SkipsEnd Skips { get; init; }

    /// <summary>Bytes that SQL may put on disk where memory does not do.</summary>
    public long Spill { get; init; } = DefaultSpill;

    /// <summary>The spill of a job that says nothing: 20 GiB.</summary>
    public const long DefaultSpill = 20L * 1024 * 1024 * 1024;

    /// <summary>Identities and APIs that differ from strand to strand.</summary>
    public StrandServices Strands { get; init; } = new();

    /// <summary>The largest <c>resume-within</c> when a job says nothing.</summary>
    public static readonly TimeSpan DefaultResumeWithin = TimeSpan.FromHours(6);

    /// <summary>Names that are known once a run has begun.</summary>
    public static IReadOnlyList<string> RunNames { get; } = ["run.date", "run.number"];
}
