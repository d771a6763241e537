using System.Collections.Concurrent;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>Adds blocks of rows to a table whose columns are all text; the engine takes them on a thread of its own, in their order.</summary>
internal sealed class TextAppender : IDisposable
{
    private const int MostWaiting = 8;

    private readonly BlockingCollection<TextBlock> _waiting = new(MostWaiting);
    private readonly ConcurrentBag<TextBlock> _empty = [];
    private readonly ConcurrentBag<TextBlock> _all = [];
    private readonly Database _database;
    private readonly string _into;
    private readonly Task _moving;
    private TextBlock? _given;
    private volatile SqlException? _failure;

    /// <param name="into">The table, as SQL names it.</param>
    public TextAppender(Database database, BlockSource source, string into, int columns)
    {
        (_database, _into, Columns) = (database, into, columns);
        source.Appender = this;
        _moving = Task.Factory.StartNew(() => MoveAll(source), CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
    }

    /// <summary>How many columns the table has.</summary>
    public int Columns { get; }

    /// <summary>Gives an empty block to fill.</summary>
    public TextBlock Rent()
    {
        if (_empty.TryTake(out var block))
            return block;
        block = new TextBlock(Columns);
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
    }

    /// <summary>Lets go of everything; nobody may fill a block any more.</summary>
    public void Dispose()
    {
        _waiting.CompleteAdding();
        _moving.GetAwaiter().GetResult();
        foreach (var block in _all)
            block.Dispose();
        _waiting.Dispose();
    }

    /// <summary>Gives the engine the next block; without rows when there is none any more.</summary>
    internal void Give(DuckDBDataChunk chunk)
    {
        // The engine has read the block before: its texts may be written over.
        if (_given is { } read)
            _empty.Add(read.Empty());
        if (_waiting.TryTake(out _given, Timeout.Infinite))
            _given.Give(chunk);
        else
            NativeMethods.DataChunks.DuckDBDataChunkSetSize(chunk, 0);
    }

    private void MoveAll(BlockSource source)
    {
        try
        {
            _database.Execute($"insert into {_into} select * from {BlockSource.Name}()");
        }
        catch (SqlException)
        {
            _failure = new SqlException("the SQL engine could not take the rows; it may be out of memory or disk space", null);
        }
        finally
        {
            source.Appender = null;
        }

        // After a failure the blocks pass as they are, so that nobody waits for one.
        foreach (var block in _waiting.GetConsumingEnumerable())
            _empty.Add(block.Empty());
    }
}
