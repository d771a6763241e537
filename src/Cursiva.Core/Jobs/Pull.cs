namespace Cursiva.Core.Jobs;

/// <summary>Fills one table by paging through one listing, or through one listing per repetition.</summary>
/// <param name="Columns">Declared columns; empty when they are found from the rows.</param>
public sealed record Pull(
    string Name, Place Place, string Api, PullRequest Request, RowSource Rows, Paging Paging, IReadOnlyList<Column> Columns)
{
    /// <summary>The identity of its requests instead of the API's; null for that one.</summary>
    public string? Identity { get; init; }

    /// <summary>What it is repeated for; null when it is not.</summary>
    public Per? Per { get; init; }

    /// <summary>Columns that each row takes along from what the pull is repeated for.</summary>
    public IReadOnlyList<KeyValuePair<string, JsonPointer>> Carry { get; init; } = [];

    /// <summary>Places of rows that never reach the disk.</summary>
    public IReadOnlyList<JsonPointer> Drop { get; init; } = [];

    /// <summary>The windows of time in which the listing is asked for; null when it is asked for as a whole.</summary>
    public Window? Window { get; init; }

    /// <summary>Rows that open another listing of this pull.</summary>
    public Opening? Opens { get; init; }

    /// <summary>The columns that make a row's identity.</summary>
    public IReadOnlyList<JsonPointer> Key { get; init; } = [];

    /// <summary>How only new rows are asked for; null for all rows.</summary>
    public Incremental? Incremental { get; init; }

    /// <summary>Which rows say that a row is gone; null for none.</summary>
    public DeletedRows? DeletedWhen { get; init; }

    /// <summary>The refusals that skip a strand.</summary>
    public IReadOnlyList<SkipRule> SkipWhen { get; init; } = [];

    /// <summary>How many strands may be skipped; null for any number.</summary>
    public SkipAllowance? AllowSkips { get; init; }

    /// <summary>Whether its columns must be those of the last good run.</summary>
    public bool RequiresSameColumns { get; init; }

    /// <summary>Whether it has to be proven that it is whole before reports are written.</summary>
    public bool RequiresProof { get; init; }

    /// <summary>
    /// Whether reports are written when it brought nothing though the last good run had rows, or when all its strands were skipped.
    /// </summary>
    public bool MayBeEmpty { get; init; }

    /// <summary>Whether a text with half of a surrogate pair is refused; otherwise it stands as its JSON escape.</summary>
    public bool RefusesOddText { get; init; }

    /// <summary>How its bodies are encrypted; null for the API's way.</summary>
    public BodyEncryption? Encryption { get; init; }

    /// <summary>What of its exchange is signed, beside what the API says; null for nothing more.</summary>
    public Signatures? Signatures { get; init; }

    /// <summary>The file of the JSON Schema that each row must fit; null for none.</summary>
    public string? Schema { get; init; }

    /// <summary>The file of the JSON Schema that the body of each request must fit; null for none.</summary>
    public string? BodySchema { get; init; }

    /// <summary>Answers with a status of success that are failures nevertheless.</summary>
    public IReadOnlyList<FailRule> FailWhen { get; init; } = [];

    /// <summary>Strands, or pages of one strand where they can be counted, at a time; 1 to 100.</summary>
    public int Parallel { get; init; } = DefaultParallel;

    /// <summary>How an export is awaited; null for other styles.</summary>
    public ExportSteps? Export { get; init; }

    /// <summary>Where a downloaded file is kept, below the folder of the reports.</summary>
    public Template? DownloadTo { get; init; }

    /// <summary>Strands at a time when a job says nothing.</summary>
    public const int DefaultParallel = 8;

    /// <summary>Whether it may have more strands than one.</summary>
    public bool Repeats => Per is not null || Opens is not null || Window is not null;

    /// <summary>Whether earlier runs tell what this one has not to ask for.</summary>
    public bool GoesOnFromRuns => Incremental is not null || Paging.Delta is not null;
}
