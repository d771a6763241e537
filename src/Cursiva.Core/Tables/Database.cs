using System.Globalization;
using System.Runtime.InteropServices;
using System.Text;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>
/// The embedded SQL engine, in memory, spilling to a folder of its own. One thread: ties, unordered results and floating sums
/// must not differ from one run to the next (promise 10). Rows that only pass may be written by several.
/// </summary>
public sealed class Database : IDisposable
{
    private static readonly int s_mostThreads = Math.Clamp(Environment.ProcessorCount, 1, 4);

    private readonly DuckDBDatabase _database;
    private readonly DuckDBNativeConnection _connection;
    private readonly List<BlockFunction> _functions = [];

    /// <param name="spillFolder">Takes what does not fit into memory; must exist.</param>
    /// <param name="memory">Bytes that the engine's buffers may take.</param>
    /// <exception cref="SqlException">The engine does not start.</exception>
    public Database(string spillFolder, long memory)
    {
        if (NativeMethods.Startup.DuckDBOpen(":memory:", out _database) != DuckDBState.Success
            || NativeMethods.Startup.DuckDBConnect(_database, out _connection) != DuckDBState.Success)
        {
            throw new SqlException("the SQL engine does not start", null);
        }

        Execute($"""
            set errors_as_json = true;
            set autoinstall_known_extensions = false;
            set autoload_known_extensions = false;
            set allow_persistent_secrets = false;
            set preserve_insertion_order = true;
            set memory_limit = '{(memory / (1024 * 1024)).ToString(CultureInfo.InvariantCulture)}MiB';
            set temp_directory = {Literal(spillFolder)};
            set TimeZone = 'UTC';
            """);
        SetThreads(1);
    }

    /// <summary>
    /// From now on SQL reads and writes no file but one, loads no extension and changes no setting but the number of threads.
    /// </summary>
    /// <param name="output">The file that results may be written to; null for none.</param>
    public void Confine(string? output = null)
    {
        if (output is not null)
            Execute($"set allowed_paths = [{Literal(output)}];");
        Execute("set enable_external_access = false; set allowed_configs = ['threads']; set lock_configuration = true;");
    }

    /// <summary>Runs SQL of ours.</summary>
    /// <returns>The rows that it wrote, for SQL that writes.</returns>
    /// <exception cref="SqlException">It failed.</exception>
    public long Execute(string sql)
    {
        var state = NativeMethods.Query.DuckDBQuery(_connection, sql, out var result);
        try
        {
            if (state != DuckDBState.Success)
                throw SqlException.Of(ErrorOf(ref result));
            return (long)NativeMethods.Query.DuckDBRowsChanged(ref result);
        }
        finally
        {
            NativeMethods.Query.DuckDBDestroyResult(ref result);
        }
    }

    /// <summary>Writes the result of a query to a file: with one thread, or with several where that gives the same file.</summary>
    /// <param name="form">The format and what it may be told, as the engine takes them.</param>
    /// <returns>The rows that it wrote.</returns>
    /// <exception cref="SqlException">It failed.</exception>
    public long Copy(string sql, string path, string form)
    {
        var passes = QueryPlan.PassesRows(this, sql);
        if (passes)
            SetThreads(s_mostThreads);
        try
        {
            return Execute($"copy ({sql}) to {Literal(path)} ({form})");
        }
        finally
        {
            if (passes)
                SetThreads(1);
        }
    }

    /// <summary>Checks that a query can be bound, without running it.</summary>
    /// <exception cref="SqlException">It cannot; the place is in the query's text.</exception>
    public void Prepare(string sql)
    {
        var state = NativeMethods.PreparedStatements.DuckDBPrepare(_connection, sql, out var statement);
        using (statement)
        {
            if (state != DuckDBState.Success)
                throw SqlException.Of(NativeMethods.PreparedStatements.DuckDBPrepareError(statement));
        }
    }

    /// <summary>Runs a query whose columns are all text, and reads its result as it is computed.</summary>
    /// <exception cref="SqlException">It failed.</exception>
    public TextRows Query(string sql)
    {
        var state = NativeMethods.PreparedStatements.DuckDBPrepare(_connection, sql, out var statement);
        using (statement)
        {
            if (state != DuckDBState.Success)
                throw SqlException.Of(NativeMethods.PreparedStatements.DuckDBPrepareError(statement));
            if (NativeMethods.PreparedStatements.DuckDBExecutePreparedStreaming(statement, out var result) != DuckDBState.Success)
            {
                var error = ErrorOf(ref result);
                NativeMethods.Query.DuckDBDestroyResult(ref result);
                throw SqlException.Of(error);
            }

            return new TextRows(result);
        }
    }

    /// <summary>The rows of a small result, as text.</summary>
    public List<string?[]> All(string sql)
    {
        using var rows = Query(sql);
        var all = new List<string?[]>();
        while (rows.Read())
            all.Add([.. Enumerable.Range(0, rows.Columns).Select(column => rows.IsNull(column) ? null : Encoding.UTF8.GetString(rows.Value(column)))]);
        return all;
    }

    /// <summary>Begins adding rows to a table whose columns are all text.</summary>
    internal TextAppender Append(string schema, string table, int columns) => new(this, $"{Quoted(schema)}.{Quoted(table)}", columns);

    /// <summary>Lets SQL read blocks of texts.</summary>
    /// <param name="begin">Begins with the first block, each time that they are read.</param>
    /// <returns>The name of the table function.</returns>
    internal string Publish(IReadOnlyList<string> columns, Func<IBlocks> begin)
    {
        var name = $"_rows_{(_functions.Count + 1).ToString(CultureInfo.InvariantCulture)}";
        _functions.Add(new BlockFunction(_connection, name, columns, begin));
        return name;
    }

    /// <summary>A text as an SQL literal.</summary>
    public static string Literal(string text) => "'" + text.Replace("'", "''") + "'";

    /// <summary>A name as a quoted SQL identifier.</summary>
    public static string Quoted(string name) => "\"" + name.Replace("\"", "\"\"") + "\"";

    public void Dispose()
    {
        _connection.Dispose();
        _database.Dispose();
        _functions.ForEach(function => function.Dispose());
    }

    private void SetThreads(int count) => Execute($"set threads = {count.ToString(CultureInfo.InvariantCulture)}");

    private static string ErrorOf(ref DuckDBResult result) => NativeMethods.Query.DuckDBResultError(ref result);
}
