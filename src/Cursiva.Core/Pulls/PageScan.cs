namespace Cursiva.Core.Pulls;

/// <summary>What a scan found.</summary>
/// <param name="Rows">Number of rows; -1 when it is not known yet.</param>
/// <param name="Next">The link to the next page, or its cursor as JSON (several in an array); null on the last one.</param>
/// <param name="Total">Rows in all, where the page tells.</param>
/// <param name="Pages">Pages in all, where the page tells.</param>
/// <param name="More">Whether another page follows, where the page tells.</param>
/// <param name="Delta">Link or token for the next run, where the page has one.</param>
public readonly record struct PageScan(int Rows, string? Next, long? Total, long? Pages, bool? More, string? Delta)
{
    /// <summary>Whether the page has the place of the next link or cursor, be it empty.</summary>
    public bool HasNext { get; init; }

    /// <summary>Which of <see cref="Jobs.RowSource.Expected"/> the page has, a bit for each.</summary>
    public ulong Seen { get; init; }

    /// <summary>Whether null stands where the rows should be.</summary>
    public bool RowsAreNull { get; init; }
}
