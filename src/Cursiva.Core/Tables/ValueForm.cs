namespace Cursiva.Core.Tables;

/// <summary>What the values of a result's column are.</summary>
public enum ValueForm
{
    /// <summary>A text.</summary>
    Text,
    /// <summary>A whole number.</summary>
    Whole,

    /// <summary>A number with places behind the point.</summary>
    Decimal,
    /// <summary>A binary floating-point number.</summary>
    Float,
    /// <summary>true or false.</summary>
    Boolean,

    /// <summary>A day, <c>2026-03-02</c>.</summary>
    Date,

    /// <summary>An instant, <c>2026-03-02T08:00:00Z</c>.</summary>
    Time,
    /// <summary>An object or array.</summary>
    Json,
}
