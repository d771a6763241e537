using System.Collections.Concurrent;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>
/// Adds blocks of rows to a table whose columns are all text; the engine takes them on a thread of its own, in their order.
/// </summary>
internal sealed class TextAppender : IDisposable
{
    private const int MostWaiting = 8;

    private readonly BlockingCollection<TextBlock> _waiting = new(MostWaiting);
    private readonly BlockPool _pool;
    private readonly Database _database;
    private readonly Task _moving;
    private volatile SqlException? _failure;

    /// <param name="into">The table, as SQL names it.</param>
    public TextAppender(Database database, string into, int columns)
    {
        _database = database;
        _pool = new BlockPool(columns);
        var function = database.Publish(
            [.. Enumerable.Range(0, columns).Select(column => $"c{column}")], () => new Incoming(_waiting, _pool));
        _moving = Task.Factory.StartNew(
            () => MoveAll($"insert into {into} select * from {function}()"),
            CancellationToken.None,
            TaskCreationOptions.LongRunning,
            TaskScheduler.Default);
    }

    /// <summary>Gives an empty block to fill.</summary>
    public TextBlock Rent() => _pool.Rent();

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
    }

    /// <summary>Lets go of everything; nobody may fill a block any more.</summary>
    public void Dispose()
    {
        _waiting.CompleteAdding();
        _moving.GetAwaiter().GetResult();
        _pool.Dispose();
        _waiting.Dispose();
    }

    private void MoveAll(string sql)
    {
        try
        {
            _database.Execute(sql);
        }
        catch (SqlException)
        {
            _failure = new SqlException("the SQL engine could not take the rows; it may be out of memory or disk space", null);
        }

        // After a failure the blocks pass as they are, so that nobody waits for one.
        foreach (var block in _waiting.GetConsumingEnumerable())
            _pool.Return(block);
    }

    // Afterwards there is nothing more to be had from it: whoever asks is refused.
    private sealed class Incoming(BlockingCollection<TextBlock> waiting, BlockPool pool) : IBlocks
    {
        private TextBlock? _given;

        public void Give(DuckDBDataChunk chunk)
        {
            if (_given is { } read)
                pool.Return(read);
            if (waiting.TryTake(out _given, Timeout.Infinite))
                _given.Give(chunk);
            else
                NativeMethods.DataChunks.DuckDBDataChunkSetSize(chunk, 0);
        }

        public void Dispose()
        {
            // The blocks are the appender's.
        }
    }
}
