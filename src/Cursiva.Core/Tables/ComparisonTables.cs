using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tables;

/// <summary>
/// What has changed in a pull since the last good run, as tables: <c>added.PULL</c>, <c>removed.PULL</c> and <c>changed.PULL</c>.
/// Values are compared as they are written, so nothing is taken for equal that is not.
/// </summary>
public sealed class ComparisonTables(Database database)
{
    /// <summary>The schemas that hold them.</summary>
    public static IReadOnlyList<string> Schemas { get; } = [Added, Removed, Changed];

    /// <summary>The schema of the last good run's rows.</summary>
    public const string Before = "before";
    private const string Added = "added";
    private const string Removed = "removed";
    private const string Changed = "changed";

    /// <summary>Creates the tables of one comparison, as views.</summary>
    /// <param name="now">The columns of the pull's table.</param>
    /// <param name="before">The columns of the table of the last good run.</param>
    /// <exception cref="TableException">The key is not there, or does not tell rows apart.</exception>
    public void Create(Comparison comparison, IReadOnlyList<KnownColumn> now, IReadOnlyList<KnownColumn> before)
    {
        var name = Database.Quoted(comparison.Pull);
        var (present, earlier) = ($"{PullTable.Present}.{name}", $"{Before}.{name}");
        foreach (var column in comparison.Key.Concat(comparison.Ignore).Where(column => now.Count > 0 && !Has(now, column)))
            throw new TableException(
                $"the comparison of '{comparison.Pull}' names the column '{column}', but the table has {string.Join(", ", now.Select(known => known.Name))}");

        var known = before.Count > 0 && comparison.Key.All(column => Has(before, column));
        if (now.Count == 0)
            throw new TableException($"the comparison of '{comparison.Pull}' has no columns yet; declare columns: of the pull");
        RequireUnique(comparison, present, "this run");
        if (known)
            RequireUnique(comparison, earlier, "the last good run");
        var same = string.Join(
            " and ",
            comparison.Key.Select(
                column => $"n.{Database.Quoted(column)}::varchar is not distinct from o.{Database.Quoted(column)}::varchar"));
        database.Execute(
            $"create schema if not exists {Added}; create schema if not exists {Removed}; create schema if not exists {Changed};");
        database.Execute(
            known
                ? $"create view {Added}.{name} as select n.* from {present} n anti join {earlier} o on {same}"
                : $"create view {Added}.{name} as select * from {present}");
        database.Execute(
            known
                ? $"create view {Removed}.{name} as select o.* from {earlier} o anti join {present} n on {same}"
                : $"create view {Removed}.{name} as select * from {present} where false");
        database.Execute(
            $"create view {Changed}.{name} as {ChangedSql(comparison, present, known ? earlier : $"(select * from {present} where false)", same, [.. now.Where(column => !known || Has(before, column.Name)).Select(column => (column, before.FirstOrDefault(old => Is(old.Name, column.Name)) ?? column))])}");
    }

    private static string ChangedSql(
        Comparison comparison, string present, string earlier, string same, IReadOnlyList<(KnownColumn Now, KnownColumn Before)> common)
    {
        var keys = string.Join(", ", comparison.Key.Select(column => "n." + Database.Quoted(column)));
        var compared = common.Where(pair => !Names(comparison.Key, pair.Now.Name) && !Names(comparison.Ignore, pair.Now.Name)).ToList();
        if (compared.Count == 0)
            return $"select {keys}, null::varchar as \"column\", null::varchar as before, null::varchar as now from {present} n where false";

        var values = compared.Select(
            pair => $"{{'column': {Database.Literal(pair.Now.Name)}, 'before': {TextOf("o", pair.Before)}, 'now': {TextOf("n", pair.Now)}}}");
        return $"""
            select * exclude (d), d."column" as "column", d.before as before, d.now as now
            from (select {keys}, unnest([{string.Join(", ", values)}]) as d from {present} n join {earlier} o on {same})
            where d.before is distinct from d.now
            """;
    }

    private void RequireUnique(Comparison comparison, string table, string which)
    {
        var key = string.Join(", ", comparison.Key.Select(Database.Quoted));
        var twice = database.All(
            $"select array_to_string([{string.Join(", ", comparison.Key.Select(column => Database.Quoted(column) + "::varchar"))}], ', '), count(*)::varchar from {table} group by {key} having count(*) > 1 order by all limit 1");
        if (twice.Count > 0)
            throw new TableException(
                $"the key of the comparison of '{comparison.Pull}' ({string.Join(", ", comparison.Key)}) is not unique in {which}: {twice[0][0]} occurs {twice[0][1]} times; add a column to key:");
    }

    // Its name in any case serves: SQL tells none apart.
    private static string TextOf(string table, KnownColumn column) =>
        WrittenDecimal.Text(column.SqlType, $"{table}.{Database.Quoted(column.Name)}");

    private static bool Is(string name, string other) => name.Equals(other, StringComparison.OrdinalIgnoreCase);

    private static bool Has(IReadOnlyList<KnownColumn> columns, string name) => Names(columns.Select(column => column.Name), name);

    private static bool Names(IEnumerable<string> names, string name) => names.Contains(name, StringComparer.OrdinalIgnoreCase);
}
