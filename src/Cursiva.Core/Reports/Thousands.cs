using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// Which number columns have their thousands apart where people read them: amounts and counts have, and numbers that only name
/// something (an id, a year) have not. Text is never touched, so a query keeps any other number together with <c>::varchar</c>.
/// </summary>
internal static class Thousands
{
    // The last word of a column's name.
    private static readonly HashSet<string> s_names = new(StringComparer.OrdinalIgnoreCase)
    {
        "id", "ids", "key", "code", "number", "no", "nr", "num", "ref", "reference", "year", "month", "week", "zip", "postcode", "port", "phone", "run", "version", "status",
    };

    /// <summary>Whether the values of a column are written in groups of three digits.</summary>
    public static bool Of(ResultColumn column) => column.IsNumber && !s_names.Contains(LastWord(column.Name));

    /// <summary>A value as it stands in a table: grouped, or as it came.</summary>
    public static string Shown(string value, ResultColumn column) => Of(column) ? ReportWords.Figure(value) : value;

    // depot_id, depot-id, "depot id" and depotId all end in id.
    private static string LastWord(string name)
    {
        var trimmed = name.TrimEnd('_', '-', ' ', '.');
        var start = trimmed.Length;
        while (start > 0 && char.IsLetter(trimmed[start - 1]))
        {
            start--;
            if (start > 0 && char.IsUpper(trimmed[start]) && !char.IsUpper(trimmed[start - 1]))
                break;
        }

        return trimmed[start..];
    }
}
