namespace Cursiva.Core.Jobs;

/// <summary>Takes written reports to people or systems, once.</summary>
/// <param name="Reports">The names of the reports whose files go; empty for a message about a run that failed.</param>
/// <param name="RepeatsInDoubt">Whether what may have left already is sent again.</param>
/// <param name="Within">How long it is tried; afterwards it is given up.</param>
public sealed record Delivery(
    string Name, Place Place, IReadOnlyList<string> Reports, DeliveryTime When, DeliveryWay Way, bool RepeatsInDoubt, TimeSpan Within)
{
    /// <summary>How long it is tried when a job says nothing.</summary>
    public static readonly TimeSpan DefaultWithin = TimeSpan.FromDays(1);

    /// <summary>Names that its words may use.</summary>
    public static IReadOnlyList<string> Names { get; } = [.. Job.RunNames, Title, Rows, Told];

    /// <summary>The name of the job's title.</summary>
    public const string Title = "run.job";

    /// <summary>The name of the number of rows that the delivered reports have.</summary>
    public const string Rows = "run.rows";

    /// <summary>The name of what is told of the run: a line of a good one, what the terminal says of a failed one.</summary>
    public const string Told = "run.message";

    /// <summary>Whether it tells of trouble in words, and has no report.</summary>
    public bool TellsOfTrouble => When is DeliveryTime.Failed or DeliveryTime.Late;

    /// <summary>Whether each file has a delivery of its own.</summary>
    public bool IsPerFile { get; init; }
}
