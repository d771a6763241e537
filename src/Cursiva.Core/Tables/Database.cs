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
    private static readonly TimeSpan s_interruptAgain = TimeSpan.FromMilliseconds(100);

    private static readonly int s_mostThreads = Math.Clamp(Environment.ProcessorCount, 1, 4);

    private readonly DuckDBDatabase _database;
    private readonly DuckDBNativeConnection _connection;
    private readonly List<BlockFunction> _functions = [];
    private readonly CancellationToken _cancel;
    private readonly CancellationTokenRegistration _stopping;
    private readonly Lock _ending = new();
    private bool _isDisposed;

    /// <param name="spillFolder">Takes what does not fit into memory; must exist.</param>
    /// <param name="memory">Bytes that the engine's buffers may take.</param>
    /// <param name="spill">Bytes that may lie in the folder.</param>
    /// <param name="cancel">Ends whatever the engine computes.</param>
    /// <exception cref="SqlException">The engine does not start.</exception>
    public Database(string spillFolder, long memory, long spill = DefaultSpill, CancellationToken cancel = default)
    {
        _cancel = cancel;
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
            set max_temp_directory_size = '{(spill / (1024 * 1024)).ToString(CultureInfo.InvariantCulture)}MiB';
            set TimeZone = 'UTC';
            """);
        SetThreads(1);
        _stopping = cancel.Register(() => _ = Task.Run(InterruptAsync, CancellationToken.None));
    }

    /// <summary>Bytes that results which do not fit into memory may take on disk, when nobody says otherwise.</summary>
    public const long DefaultSpill = 20L * 1024 * 1024 * 1024;

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
        _cancel.ThrowIfCancellationRequested();
        var state = NativeMethods.Query.DuckDBQuery(_connection, sql, out var result);
        try
        {
            if (state != DuckDBState.Success)
                throw Failed(ErrorOf(ref result));
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
        _cancel.ThrowIfCancellationRequested();
        var state = NativeMethods.PreparedStatements.DuckDBPrepare(_connection, sql, out var statement);
        using (statement)
        {
            if (state != DuckDBState.Success)
                throw Failed(NativeMethods.PreparedStatements.DuckDBPrepareError(statement));
            if (NativeMethods.PreparedStatements.DuckDBExecutePreparedStreaming(statement, out var result) != DuckDBState.Success)
            {
                var error = ErrorOf(ref result);
                NativeMethods.Query.DuckDBDestroyResult(ref result);
                throw Failed(error);
            }

            return new TextRows(result, Failed);
        }
    }

    /// <summary>The rows of a small result, as text.</summary>
    public List<string?[]> All(string sql)
    {
        using var rows = Query(sql);
        var all = new List<string?[]>();
        while (rows.Read())
            all.Add(
                [.. Enumerable.Range(0, rows.Columns).Select(
                    column => rows.IsNull(column) ? null : Encoding.UTF8.GetString(rows.Value(column)))]);
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
    /// <remarks>SQL is handed over as a text that ends at the first NUL, so that one is written as what makes it.</remarks>
    public static string Literal(string text) => text.Contains('\0')
        ? "(" + string.Join(" || chr(0) || ", text.Split('\0').Select(Literal)) + ")"
        : "'" + text.Replace("'", "''") + "'";

    /// <summary>A name as a quoted SQL identifier.</summary>
    public static string Quoted(string name) => "\"" + name.Replace("\"", "\"\"") + "\"";

    /// <inheritdoc/>
    public void Dispose()
    {
        _stopping.Dispose();
        lock (_ending)
            _isDisposed = true;
        _connection.Dispose();
        _database.Dispose();
        _functions.ForEach(function => function.Dispose());
    }

    // Again and again: a statement that begins just then forgets that it was interrupted.
    private async Task InterruptAsync()
    {
        while (true)
        {
            lock (_ending)
            {
                if (_isDisposed)
                    return;
                NativeMethods.Startup.DuckDBInterrupt(_connection);
            }

            await Task.Delay(s_interruptAgain, TimeProvider.System, CancellationToken.None);
        }
    }

    // What failed because it was stopped is a stop.
    private Exception Failed(string error) =>
        _cancel.IsCancellationRequested ? new OperationCanceledException(_cancel) : SqlException.Of(error);

    private void SetThreads(int count) => Execute($"set threads = {count.ToString(CultureInfo.InvariantCulture)}");

    private static string ErrorOf(ref DuckDBResult result) => NativeMethods.Query.DuckDBResultError(ref result);
}
