using System.Globalization;

namespace Cursiva.Core.Tables;

/// <summary>
/// Decimals of which every number is written as short as it can be, as 9.5, 10.25 and 100 (or 100.0), side by side. SQL computes
/// with a decimal of the widest scale, and a column that only passes comes out as it was written. What tells such a column from
/// others is its width, since that is all that a column of the engine's keeps on its way through a query.
/// </summary>
internal static class WrittenDecimal
{
    // Of all widths those that nobody declares: sums have 38, and products at least as many digits as their factors together.
    private const string Shortest = "DECIMAL(37,";
    private const string ShortestWithPoint = "DECIMAL(36,";

    /// <summary>Most digits, those behind the point included.</summary>
    public const int MostDigits = 36;

    /// <param name="hasPoint">Whether whole numbers have a point and one zero.</param>
    /// <param name="scale">Most places behind the point, at least 1.</param>
    public static string TypeOf(bool hasPoint, int scale) =>
        (hasPoint ? ShortestWithPoint : Shortest) + scale.ToString(CultureInfo.InvariantCulture) + ")";

    /// <summary>SQL that gives a value's text, as it was written where its type is one of these.</summary>
    public static string Text(string sqlType, string value) =>
        IsWhole(sqlType) ? $"{value}::varchar"
        : sqlType.StartsWith(Shortest, StringComparison.Ordinal) ? $"rtrim(rtrim({value}::varchar, '0'), '.')"
        : sqlType.StartsWith(ShortestWithPoint, StringComparison.Ordinal) ? $"regexp_replace({value}::varchar, '(\\.[0-9]+?)0+$', '\\1')"
        : $"{value}::varchar";

    // Such a type has a scale always.
    private static bool IsWhole(string sqlType) => sqlType.EndsWith(",0)", StringComparison.Ordinal);
}
