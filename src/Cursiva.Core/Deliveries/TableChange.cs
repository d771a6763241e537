using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Npgsql;

namespace Cursiva.Core.Deliveries;

/// <summary>The statements that bring rows into a table, all of one transaction.</summary>
internal sealed class TableChange(NpgsqlConnection connection, TableWay way, TableManifest manifest)
{
    private const string LedgerTable = "cursiva_ledger";
    private const string NewRows = "cursiva_new_rows";
    private const int PieceSize = 1 << 18;

    private readonly IReadOnlyList<TableColumn> _columns = manifest.Columns;
    private readonly string _table = (way.Schema is null ? "" : Quoted(way.Schema) + ".") + Quoted(way.Table);
    private readonly string _ledger = (way.Schema is null ? "" : Quoted(way.Schema) + ".") + LedgerTable;

    /// <summary>The rows that come in.</summary>
    public long Count => manifest.Count;

    /// <summary>When these rows came in; null when they did not.</summary>
    public async Task<DateTime?> NotedAsync(string key, CancellationToken cancel) =>
        await ExistsAsync(_ledger, cancel)
            ? (DateTime?)await ScalarAsync($"select at at time zone 'UTC' from {_ledger} where key = $1", cancel, key)
            : null;

    /// <summary>Notes in the database itself that these rows come in.</summary>
    /// <returns>When they came in before; null when they did not.</returns>
    public async Task<DateTime?> NoteAsync(string key, LedgerEntry entry, CancellationToken cancel)
    {
        if (!await ExistsAsync(_ledger, cancel))
            await ExecuteAsync(
                $"create table if not exists {_ledger} (key text primary key, delivery text not null, run integer not null, at timestamptz not null default now())",
                cancel);
        if (await NotedAsync(key, cancel) is { } since)
            return since;
        await ExecuteAsync($"insert into {_ledger} (key, delivery, run) values ($1, $2, {entry.Run})", cancel, key, entry.Of);
        return null;
    }

    /// <summary>What keeps the rows out of the table, which is made if it is missing; null for nothing.</summary>
    public async Task<string?> ObjectionAsync(CancellationToken cancel)
    {
        if (!await ExistsAsync(_table, cancel))
        {
            var key = way.Key.Count > 0 ? $", primary key ({Names(way.Key)})" : "";
            await ExecuteAsync(
                $"create table {_table} ({string.Join(", ", _columns.Select(column => $"{Quoted(column.Name)} {column.Type}"))}{key})",
                cancel);
            return null;
        }

        var there = await ColumnsThereAsync(cancel);
        var missing = _columns.Where(column => !there.ContainsKey(column.Name)).Select(column => $"'{column.Name}'").ToList();
        if (missing.Count > 0)
            return $"table {_table} has no column {string.Join(", ", missing)}; it has {string.Join(", ", there.Keys)}. Add the column there, or remove it from sql:";
        var unlike = _columns.Where(column => !TableTypes.Keeps(column.Type, there[column.Name]))
            .Select(column => $"'{column.Name}' is {there[column.Name]} there and {column.Type} here")
            .ToList();
        return unlike.Count == 0
            ? null
            : $"table {_table} would not keep every value: {string.Join("; ", unlike)}. Change the column there, or cast it in sql:";
    }

    /// <summary>Brings the rows in.</summary>
    /// <param name="file">CSV without a header.</param>
    /// <returns>What is wrong with what is there now; null for nothing.</returns>
    public async Task<string?> FillAsync(string file, CancellationToken cancel)
    {
        var isEmpty = await ScalarAsync($"select 1 from {_table} limit 1", cancel) is null;
        if (way.Rows == TableRows.Merge && !isEmpty)
            return await MergeAsync(file, cancel);
        if (way.Rows == TableRows.Replace && !isEmpty)
            await ExecuteAsync($"delete from {_table}", cancel);
        await CopyAsync(_table, file, cancel);
        return way.Rows == TableRows.Append && !isEmpty ? null : await LackingAsync(_table, cancel);
    }

    private async Task<string?> MergeAsync(string file, CancellationToken cancel)
    {
        await ExecuteAsync(
            $"create temporary table {NewRows} on commit drop as select {Names(_columns.Select(column => column.Name))} from {_table} with no data",
            cancel);
        await CopyAsync(NewRows, file, cancel);
        if (await LackingAsync(NewRows, cancel) is { } lacking)
            return lacking;
        await ExecuteAsync($"analyze {NewRows}; lock table {_table} in share row exclusive mode", cancel);
        var same = string.Join(" and ", way.Key.Select(name => $"t.{Quoted(name)} = n.{Quoted(name)}"));
        List<TableColumn> others = [.. _columns.Where(column => !way.Key.Contains(column.Name))];
        if (others.Count > 0)
        {
            // Rows that are as they were are left alone: a row that is written again costs as much as a new one.
            var differs = string.Join(" or ", others.Select(column => $"t.{Compared(column)} is distinct from n.{Compared(column)}"));
            await ExecuteAsync(
                $"update {_table} t set {string.Join(", ", others.Select(column => $"{Quoted(column.Name)} = n.{Quoted(column.Name)}"))} from {NewRows} n where {same} and ({differs})",
                cancel);
        }

        await ExecuteAsync(
            $"insert into {_table} ({Names(_columns.Select(column => column.Name))}) select n.* from {NewRows} n where not exists (select 1 from {_table} t where {same})",
            cancel);
        return null;
    }

    private async Task CopyAsync(string table, string file, CancellationToken cancel)
    {
        await using var writer = await connection.BeginTextImportAsync(
            $"copy {table} ({Names(_columns.Select(column => column.Name))}) from stdin (format csv)", cancel);

        // The bytes go as they are: what writes text stands on a stream.
        var stream = ((StreamWriter)writer).BaseStream;
        await using var source = File.OpenRead(file);
        await source.CopyToAsync(stream, PieceSize, cancel);
    }

    // The rows are counted by whoever has them now.
    private async Task<string?> LackingAsync(string table, CancellationToken cancel) =>
        await ScalarAsync($"select count(*) from {table}", cancel) is long there && there == Count
            ? null
            : $"the number of rows that arrived is not the {Count:N0} that were sent; nothing was changed";

    // 1.0 and 1.00 are equal numbers and different digits; json has no equality.
    private static string Compared(TableColumn column) =>
        Quoted(column.Name) + (column.Type.StartsWith("numeric", StringComparison.Ordinal) || column.Type == "jsonb" ? "::text" : "");

    private async Task<Dictionary<string, string>> ColumnsThereAsync(CancellationToken cancel)
    {
        await using var command = Command(
            "select attname::text, format_type(atttypid, atttypmod) from pg_attribute where attrelid = to_regclass($1) and attnum > 0 and not attisdropped order by attnum",
            _table);
        await using var rows = await command.ExecuteReaderAsync(cancel);
        var there = new Dictionary<string, string>(StringComparer.Ordinal);
        while (await rows.ReadAsync(cancel))
            there[rows.GetString(0)] = rows.GetString(1);
        return there;
    }

    private async Task<bool> ExistsAsync(string table, CancellationToken cancel) =>
        await ScalarAsync("select to_regclass($1)::text", cancel, table) is string;

    private async Task<object?> ScalarAsync(string sql, CancellationToken cancel, params string[] values)
    {
        await using var command = Command(sql, values);
        return await command.ExecuteScalarAsync(cancel) is { } found and not DBNull ? found : null;
    }

    private async Task ExecuteAsync(string sql, CancellationToken cancel, params string[] values)
    {
        await using var command = Command(sql, values);
        await command.ExecuteNonQueryAsync(cancel);
    }

    private NpgsqlCommand Command(string sql, params string[] values)
    {
        var command = new NpgsqlCommand(sql, connection);
        foreach (var value in values)
            command.Parameters.Add(new NpgsqlParameter { Value = value });
        return command;
    }

    private static string Names(IEnumerable<string> names) => string.Join(", ", names.Select(Quoted));

    private static string Quoted(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";
}
