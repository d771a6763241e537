namespace Cursiva.Core.Pulls;

/// <summary>How far a pull is; read by any thread while it goes on.</summary>
public sealed class PullProgress(string pull, long rowsBefore, long pagesBefore)
{
    private long _rows = rowsBefore;
    private long _pages = pagesBefore;
    private long _total = -1;

    public string Pull { get; } = pull;

    /// <summary>Rows that an earlier start of the same run had landed.</summary>
    public long RowsBefore { get; } = rowsBefore;

    /// <summary>Rows landed so far, those before included.</summary>
    public long Rows => Interlocked.Read(ref _rows);

    /// <summary>Pages landed so far, those before included.</summary>
    public long Pages => Interlocked.Read(ref _pages);

    /// <summary>Rows in all, where the API tells.</summary>
    public long? Total => Interlocked.Read(ref _total) is >= 0 and var total ? total : null;

    internal void Landed(int rows, long? total)
    {
        Interlocked.Add(ref _rows, rows);
        Interlocked.Increment(ref _pages);
        if (total is { } known)
            Interlocked.Exchange(ref _total, known);
    }
}
