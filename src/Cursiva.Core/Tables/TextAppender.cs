using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>Adds rows to a table whose columns are all text. While blocks are filled, the engine takes those before on a thread of its own.</summary>
internal sealed class TextAppender : IDisposable
{
    private const int Blocks = 8;

    private readonly DuckDBAppender _appender;
    private readonly BlockingCollection<TextBlock> _full = new(Blocks);
    private readonly BlockingCollection<TextBlock> _empty = new(Blocks);
    private readonly Task _moving;
    private TextBlock _filling;
    private volatile SqlException? _failure;

    public TextAppender(DuckDBNativeConnection connection, string schema, string table, int columns)
    {
        if (NativeMethods.Appender.DuckDBAppenderCreate(connection, schema, table, out _appender) != DuckDBState.Success)
            throw new SqlException($"cannot add rows to {schema}.{table}", null);
        _filling = new TextBlock(columns);
        for (var n = 1; n < Blocks; n++)
            _empty.Add(new TextBlock(columns));
        _moving = Task.Factory.StartNew(MoveAll, CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
    }

    /// <summary>Sets a column of the present row; a later value replaces an earlier one.</summary>
    /// <returns>Whether the column had a value or a null already.</returns>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool Set(int column, ReadOnlySpan<byte> utf8) => _filling.Set(column, utf8);

    /// <summary>Sets a column of the present row to null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool SetNull(int column) => _filling.SetNull(column);

    /// <summary>Ends the present row; columns that were not set are null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public void EndRow()
    {
        _filling.EndRow();
        if (_filling.Rows == TextBlock.MostRows)
            Move();
    }

    /// <summary>Ends the table: all rows are in it.</summary>
    /// <exception cref="SqlException">The engine could not take them.</exception>
    public void Finish()
    {
        if (_filling.Rows > 0)
            Move();
        _full.CompleteAdding();
        _moving.GetAwaiter().GetResult();
        if (_failure is { } failure)
            throw failure;
        Check(_appender, NativeMethods.Appender.DuckDBAppenderClose(_appender));
    }

    public void Dispose()
    {
        // The engine must have let go of a block before it is freed, whether it could take it or not.
        _full.CompleteAdding();
        _moving.GetAwaiter().GetResult();
        _filling.Dispose();
        foreach (var block in _empty.Concat(_full))
            block.Dispose();
        _appender.Dispose();
        _full.Dispose();
        _empty.Dispose();
    }

    internal static void Check(DuckDBAppender appender, DuckDBState state)
    {
        if (state != DuckDBState.Success)
        {
            using var error = NativeMethods.Appender.DuckDBAppenderErrorData(appender);
            throw new SqlException("the SQL engine could not take the rows; it may be out of memory or disk space", null);
        }
    }

    private void Move()
    {
        if (_failure is { } failure)
            throw failure;
        _full.Add(_filling);
        _filling = _empty.Take();
    }

    // After a failure the blocks come back as they are, so that nobody waits for one.
    private void MoveAll()
    {
        foreach (var block in _full.GetConsumingEnumerable())
        {
            try
            {
                if (_failure is null)
                    block.MoveInto(_appender);
            }
            catch (SqlException error)
            {
                _failure = error;
            }

            _empty.Add(block);
        }
    }
}
