namespace Cursiva.Core.Jobs;

/// <summary>How much of a report a file of some format holds.</summary>
public enum FormatHolds
{
    /// <summary>Every part, and what the report says of itself.</summary>
    Everything,

    /// <summary>The rows of one table and nothing else, so that equal rows are equal bytes.</summary>
    OneTable,

    /// <summary>One chart.</summary>
    OneChart,
}
