namespace Cursiva.Core.Jobs;

/// <summary>How rows stand in an answer.</summary>
public enum RowsForm
{
    /// <summary>An array of rows.</summary>
    Array,

    /// <summary>One row.</summary>
    One,

    /// <summary>An object whose values are the rows.</summary>
    Values,

    /// <summary>An array of plain values, each of which becomes a row of one field.</summary>
    Plain,

    /// <summary>An array of batches, each with an array of rows inside.</summary>
    Batches,

    /// <summary>Several arrays of rows in one answer.</summary>
    Several,
}
