namespace Cursiva.Core.Tables;

/// <summary>The SQL table of the items that the job's writes worked on.</summary>
public static class WrittenTable
{
    /// <summary>The table's name.</summary>
    public const string Name = "written";

    private const int Together = 500;

    /// <summary>Creates the table, which is empty until the writes are done.</summary>
    public static void Create(Database database) =>
        database.Execute($"create table {Name} (write varchar, item json, step varchar, state varchar, said varchar)");

    /// <summary>Fills the table.</summary>
    public static void Fill(Database database, IEnumerable<WrittenRow> rows)
    {
        foreach (var some in rows.Chunk(Together))
            database.Execute(
                $"insert into {Name} values {string.Join(", ", some.Select(row => $"({string.Join(", ", new[] { row.Write, row.Item, row.Step, row.State, row.Said }.Select(text => text is null ? "null" : Database.Literal(text)))})"))}");
    }
}
