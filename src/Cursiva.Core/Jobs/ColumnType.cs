namespace Cursiva.Core.Jobs;

/// <summary>The types a column can be declared with.</summary>
public enum ColumnType
{
    /// <summary>Text, as it came.</summary>
    Text,

    /// <summary>Whole numbers of up to 18 digits and the sign.</summary>
    Integer,

    /// <summary>Decimal numbers, as numbers or as texts; all get as many places as the one with the most.</summary>
    Decimal,

    /// <summary>True or false.</summary>
    Boolean,

    /// <summary>A day, ISO 8601.</summary>
    Date,

    /// <summary>A moment, ISO 8601 with an offset, or in the column's zone; told in UTC.</summary>
    Time,

    /// <summary>Any JSON, its text as it came.</summary>
    Json,
}
