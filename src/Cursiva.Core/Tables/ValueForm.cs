namespace Cursiva.Core.Tables;

/// <summary>What the values of a result's column are.</summary>
public enum ValueForm
{
    Text,
    Whole,

    /// <summary>A number with places behind the point.</summary>
    Decimal,
    Float,
    Boolean,

    /// <summary>A day, <c>2026-03-02</c>.</summary>
    Date,

    /// <summary>An instant, <c>2026-03-02T08:00:00Z</c>.</summary>
    Time,
    Json,
}
