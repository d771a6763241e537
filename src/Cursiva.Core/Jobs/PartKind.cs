namespace Cursiva.Core.Jobs;

/// <summary>How a part of a report is shown.</summary>
public enum PartKind
{
    /// <summary>Rows and columns.</summary>
    Table,

    /// <summary>One number, with its change since the last run.</summary>
    Figure,

    /// <summary>A chart of a bar for each row.</summary>
    Bar,

    /// <summary>A chart of bars made of several values.</summary>
    StackedBar,

    /// <summary>A chart of values over time or another number.</summary>
    Line,

    /// <summary>A chart of the shares of a whole.</summary>
    Share,

    /// <summary>Words.</summary>
    Text,
}
