namespace Cursiva.Core.Jobs;

/// <summary>What becomes of the rows that a table has already.</summary>
public enum TableRows
{
    /// <summary>They go.</summary>
    Replace,

    /// <summary>They stay.</summary>
    Append,

    /// <summary>Those with the key of a new row are replaced, the others stay.</summary>
    Merge,
}
