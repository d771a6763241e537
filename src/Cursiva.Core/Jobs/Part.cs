namespace Cursiva.Core.Jobs;

/// <summary>One thing that a report shows.</summary>
/// <param name="Sql">What gives its rows; null for words.</param>
/// <param name="Words">What a part of words says, in paragraphs; names of the run are filled in later.</param>
/// <param name="Unit">What its numbers count, for people.</param>
public sealed record Part(
    string Name, Place Place, PartKind Kind, string Title, SqlSource? Sql, Template? Words, string? Unit, Requirements Require)
{
    /// <summary>Values at which a chart has a line.</summary>
    public IReadOnlyList<Threshold> Thresholds { get; init; } = [];

    /// <summary>Whether the part is drawn.</summary>
    public bool IsChart => Kind is PartKind.Bar or PartKind.StackedBar or PartKind.Line or PartKind.Share;

    /// <summary>Whether it has rows that a file of rows can hold.</summary>
    public bool IsTable => Kind == PartKind.Table || IsChart;
}
