namespace Cursiva.Core.Pulls;

/// <summary>How far a pull is; read by any thread while it goes on.</summary>
/// <param name="repeats">Whether it has one strand for each of something else.</param>
public sealed class PullProgress(string pull, long rowsBefore, long pagesBefore, bool repeats = false)
{
    private long _rows = rowsBefore;
    private long _pages = pagesBefore;
    private long _total = -1;
    private long _strandsBegun;
    private long _strandsEnded;
    private long _skips;

    /// <summary>The pull's name.</summary>
    public string Pull { get; } = pull;

    /// <summary>Whether it has strands by <c>per:</c>.</summary>
    public bool Repeats { get; } = repeats;

    /// <summary>Rows that an earlier start of the same run had landed.</summary>
    public long RowsBefore { get; } = rowsBefore;

    /// <summary>Rows landed so far, those before included.</summary>
    public long Rows => Interlocked.Read(ref _rows);

    /// <summary>Pages landed so far, those before included.</summary>
    public long Pages => Interlocked.Read(ref _pages);

    /// <summary>Rows in all, where the API tells and there is one strand.</summary>
    public long? Total => Interlocked.Read(ref _total) is >= 0 and var total ? total : null;

    /// <summary>Strands begun so far, those that have ended included.</summary>
    public long StrandsBegun => Interlocked.Read(ref _strandsBegun);

    /// <summary>Strands that have ended, those skipped included.</summary>
    public long StrandsEnded => Interlocked.Read(ref _strandsEnded);

    /// <summary>Strands that were skipped.</summary>
    public long Skips => Interlocked.Read(ref _skips);

    internal void Landed(int rows, long? total)
    {
        Interlocked.Add(ref _rows, rows);
        Interlocked.Increment(ref _pages);
        if (total is { } known && !Repeats)
            Interlocked.Exchange(ref _total, known);
    }

    internal void StrandBegan() => Interlocked.Increment(ref _strandsBegun);

    internal void StrandEnded(bool skipped)
    {
        Interlocked.Increment(ref _strandsEnded);
        if (skipped)
            Interlocked.Increment(ref _skips);
    }
}
