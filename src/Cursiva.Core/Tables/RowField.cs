namespace Cursiva.Core.Tables;

/// <summary>One field of the rows.</summary>
/// <param name="raw">The name as it stands between its quotes.</param>
internal sealed class RowField(byte[] raw, string name, RowFields inside)
{
    public byte[] Raw { get; } = raw;

    public string Name { get; } = name;

    /// <summary>The fields of its objects.</summary>
    public RowFields Inside { get; } = inside;

    /// <summary>The column that takes its values; null until one is needed.</summary>
    public FoundColumn? Column { get; set; }

    /// <summary>Objects go into the column as JSON, and are not taken apart.</summary>
    public bool TakesWhole { get; set; }
}
