using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>Makes the landed rows of a pull an SQL table: staged as text, then typed where the cast is exact.</summary>
public sealed class PullTable(Database database)
{
    private const string Schema = "landed";

    /// <summary>Names that stood twice in one row; the last value counts.</summary>
    public long NamesTwice { get; private set; }

    /// <summary>Stages a pull.</summary>
    /// <param name="lastSeen">The columns of the last run, for a pull that brings no rows.</param>
    /// <returns>The columns of the table.</returns>
    /// <exception cref="TableException">A value does not fit the type that was declared for its column.</exception>
    public IReadOnlyList<KnownColumn> Stage(Pull pull, LandedRows rows, IReadOnlyList<KnownColumn> lastSeen, CancellationToken cancel)
    {
        database.Execute($"create schema if not exists {Schema};");
        var shape = Look(new RowShape(pull.Columns), rows, onlyFirstPage: true, cancel);
        if (!TryFill(pull, shape, rows, cancel))
        {
            // A later row had a field or a kind that the first page had not: learn from all rows, then fill once more.
            shape = Look(new RowShape(pull.Columns), rows, onlyFirstPage: false, cancel);
            if (!TryFill(pull, shape, rows, cancel))
                throw new InvalidOperationException($"the rows of pull '{pull.Name}' changed while they were read");
        }

        var columns = Columns(pull, shape, rows.Count == 0 ? lastSeen : []);
        CreateView(pull, columns);
        return columns;
    }

    private static RowShape Look(RowShape shape, LandedRows rows, bool onlyFirstPage, CancellationToken cancel)
    {
        var walker = new RowWalker(shape, null, int.MaxValue);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        try
        {
            rows.Read(
                (_, lines) =>
                {
                    walker.Walk(lines);
                    if (onlyFirstPage)
                        stop.Cancel();
                },
                stop.Token);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            // The first page was enough.
        }

        foreach (var column in shape.Columns)
            column.KeepsQuotes = shape.FindsColumns ? column.IsMixed : shape.Declared[column.Place].Type == ColumnType.Json;
        return shape;
    }

    private bool TryFill(Pull pull, RowShape shape, LandedRows rows, CancellationToken cancel)
    {
        var names = shape.Columns.Count > 0 ? shape.Columns.Select(column => column.Name) : ["_"];
        var columns = Math.Max(1, shape.Columns.Count);
        database.Execute($"create or replace table {Schema}.{Database.Quoted(pull.Name)} ({string.Join(", ", names.Select(name => Database.Quoted(name) + " varchar"))});");
        using var appender = database.Append(Schema, pull.Name, columns);
        var walker = new RowWalker(shape, appender, shape.Columns.Count);
        rows.Read(
            (_, lines) =>
            {
                if (!walker.Outgrown)
                    walker.Walk(lines);
            },
            cancel);
        if (walker.Outgrown)
            return false;
        appender.Finish();
        NamesTwice = walker.Twice;
        return true;
    }

    private List<KnownColumn> Columns(Pull pull, RowShape shape, IReadOnlyList<KnownColumn> lastSeen)
    {
        if (!shape.FindsColumns)
            return [.. shape.Columns.Select(column => new KnownColumn(column.Name, DeclaredType(pull, shape.Declared[column.Place].Type, column)))];
        return shape.Columns.Count > 0 ? [.. shape.Columns.Select(column => new KnownColumn(column.Name, column.SqlType()))] : [.. lastSeen];
    }

    private string DeclaredType(Pull pull, ColumnType type, FoundColumn column)
    {
        var name = Database.Quoted(column.Name);
        switch (type)
        {
            case ColumnType.Integer:
                Require(pull, column, $"coalesce(try_cast({name} as bigint)::varchar, '') <> {name}", "a whole number of at most 18 digits");
                return "BIGINT";
            case ColumnType.Decimal:
                if (column.Kinds != ValueKinds.None && column.DecimalType() is null)
                    Require(pull, column, $"not regexp_full_match({name}, '-?[0-9]+(\\.[0-9]+)?') or length(regexp_extract({name}, '\\.([0-9]+)', 1)) <> (select max(length(regexp_extract({name}, '\\.([0-9]+)', 1))) from {Schema}.{Database.Quoted(pull.Name)})", "a decimal number with as many places as the others; declare the column as json to keep numbers as they are");
                return column.Kinds == ValueKinds.None ? "DECIMAL(18,2)" : column.DecimalType() ?? throw new TableException($"column '{column.Name}' of pull '{pull.Name}' has numbers that no decimal keeps; declare it as json");
            case ColumnType.Boolean:
                Require(pull, column, $"{name} not in ('true', 'false')", "true or false");
                return "BOOLEAN";
            case ColumnType.Date:
                Require(pull, column, $"coalesce(try_cast({name} as date)::varchar, '') <> {name}", "a date such as 2026-03-02");
                return "DATE";
            case ColumnType.Time:
                Require(pull, column, $"try_cast({name} as timestamptz) is null", "a time such as 2026-03-02T08:00:00Z");
                return "TIMESTAMP";
            case ColumnType.Json:
                return "JSON";
            default:
                return "VARCHAR";
        }
    }

    // A value that the declared type would change is an error, told by column and row.
    private void Require(Pull pull, FoundColumn column, string wrong, string right)
    {
        var name = Database.Quoted(column.Name);
        var found = database.All($"select (rowid + 1)::varchar, {name} from {Schema}.{Database.Quoted(pull.Name)} where {name} is not null and ({wrong}) order by rowid limit 1");
        if (found.Count > 0)
            throw new TableException($"column '{column.Name}' of pull '{pull.Name}' has '{Shorten(found[0][1]!)}' in row {found[0][0]}; it should be {right}");
    }

    private void CreateView(Pull pull, IReadOnlyList<KnownColumn> columns)
    {
        var table = Database.Quoted(pull.Name);
        if (columns.Count == 0)
        {
            database.Execute($"create or replace view {table} as select * from {Schema}.{table}");
            return;
        }

        var filled = database.All($"select column_name::varchar from duckdb_columns() where schema_name = '{Schema}' and table_name = {Database.Literal(pull.Name)}").Select(row => row[0]).ToHashSet();
        var list = columns.Select(column =>
        {
            var name = Database.Quoted(column.Name);
            var value = !filled.Contains(column.Name) ? "null"
                : column.SqlType == "TIMESTAMP" ? $"make_timestamp(epoch_us(cast({name} as timestamptz)))"
                : name;
            return $"cast({value} as {column.SqlType}) as {name}";
        });
        database.Execute($"create or replace view {table} as select {string.Join(", ", list)} from {Schema}.{table}");
    }

    private static string Shorten(string text) => text.Length <= 60 ? text : text[..57] + "...";
}
