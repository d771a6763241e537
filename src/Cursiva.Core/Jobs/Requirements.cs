namespace Cursiva.Core.Jobs;

/// <summary>What has to hold of the rows of a part.</summary>
/// <param name="AtLeast">Fewest rows.</param>
/// <param name="AtMost">Most rows.</param>
/// <param name="RowsChange">Most change of the number of rows since the last good run, as a share of it.</param>
/// <param name="NoNulls">Columns that have a value in every row.</param>
/// <param name="Unique">Columns that together tell every row apart.</param>
/// <param name="Within">Columns and the lowest and highest value that they may have; null for none.</param>
public sealed record Requirements(
    Place Place,
    long? AtLeast,
    long? AtMost,
    double? RowsChange,
    IReadOnlyList<string> NoNulls,
    IReadOnlyList<string> Unique,
    IReadOnlyList<(string Column, decimal Lowest, decimal Highest)> Within)
{
    /// <summary>Nothing is required.</summary>
    public static Requirements None { get; } = new(new Place("", 0, 0), null, null, null, [], [], []);

    /// <summary>Whether anything is required.</summary>
    public bool Any =>
        AtLeast is not null || AtMost is not null || RowsChange is not null || NoNulls.Count + Unique.Count + Within.Count > 0;
}
