namespace Cursiva.Core.Tables;

/// <summary>How the columns of a table differ from those of the last good run.</summary>
public static class ColumnDrift
{
    /// <summary>Each difference as a phrase: a column is new, is gone, or has another type.</summary>
    public static IReadOnlyList<string> Between(IReadOnlyList<KnownColumn> before, IReadOnlyList<KnownColumn> now)
    {
        var (old, present) = (ByName(before), ByName(now));
        return
        [
            .. now.Where(column => !old.ContainsKey(column.Name)).Select(column => $"{column.Name} is new ({Shown(column)})"),
            .. before.Where(column => !present.ContainsKey(column.Name)).Select(column => $"{column.Name} is gone"),
            .. now.Where(column => old.TryGetValue(column.Name, out var was) && Shown(was) != Shown(column)).Select(
                column => $"{column.Name} was {Shown(old[column.Name])} and is {Shown(column)}"),
        ];
    }

    // How many digits this run's numbers happened to have is no change of the API's.
    private static string Shown(KnownColumn column) =>
        column.SqlType.StartsWith("DECIMAL", StringComparison.Ordinal)
            ? column.SqlType.EndsWith(",0)", StringComparison.Ordinal) ? "bigint" : "decimal"
            : column.SqlType.ToLowerInvariant();

    private static Dictionary<string, KnownColumn> ByName(IReadOnlyList<KnownColumn> columns) =>
        columns.ToDictionary(column => column.Name, StringComparer.OrdinalIgnoreCase);
}
