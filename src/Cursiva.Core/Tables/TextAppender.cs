using System.Collections.Concurrent;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>Adds blocks of rows to a table whose columns are all text; the engine takes them on a thread of its own, in their order.</summary>
internal sealed class TextAppender : IDisposable
{
    private const int MostWaiting = 8;

    private readonly int _columns;
    private readonly DuckDBAppender _appender;
    private readonly BlockingCollection<TextBlock> _waiting = new(MostWaiting);
    private readonly ConcurrentBag<TextBlock> _empty = [];
    private readonly ConcurrentBag<TextBlock> _all = [];
    private readonly Task _moving;
    private volatile SqlException? _failure;

    public TextAppender(DuckDBNativeConnection connection, string schema, string table, int columns)
    {
        if (NativeMethods.Appender.DuckDBAppenderCreate(connection, schema, table, out _appender) != DuckDBState.Success)
            throw new SqlException($"cannot add rows to {schema}.{table}", null);
        _columns = columns;
        _moving = Task.Factory.StartNew(MoveAll, CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
    }

    /// <summary>Gives an empty block to fill.</summary>
    public TextBlock Rent()
    {
        if (_empty.TryTake(out var block))
            return block;
        block = new TextBlock(_columns);
        _all.Add(block);
        return block;
    }

    /// <summary>Adds the rows of a block, which is the appender's again.</summary>
    /// <exception cref="SqlException">The engine could not take rows that were added before.</exception>
    public void Add(TextBlock block)
    {
        if (_failure is { } failure)
            throw failure;
        _waiting.Add(block);
    }

    /// <summary>Ends the table: all rows are in it.</summary>
    /// <exception cref="SqlException">The engine could not take them.</exception>
    public void Finish()
    {
        _waiting.CompleteAdding();
        _moving.GetAwaiter().GetResult();
        if (_failure is { } failure)
            throw failure;
        Check(_appender, NativeMethods.Appender.DuckDBAppenderClose(_appender));
    }

    /// <summary>Lets go of everything; nobody may fill a block any more.</summary>
    public void Dispose()
    {
        _waiting.CompleteAdding();
        _moving.GetAwaiter().GetResult();
        foreach (var block in _all)
            block.Dispose();
        _appender.Dispose();
        _waiting.Dispose();
    }

    internal static void Check(DuckDBAppender appender, DuckDBState state)
    {
        if (state != DuckDBState.Success)
        {
            using var error = NativeMethods.Appender.DuckDBAppenderErrorData(appender);
            throw new SqlException("the SQL engine could not take the rows; it may be out of memory or disk space", null);
        }
    }

    // After a failure the blocks pass as they are, so that nobody waits for one.
    private void MoveAll()
    {
        foreach (var block in _waiting.GetConsumingEnumerable())
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
