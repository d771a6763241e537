using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>
/// A result whose columns are all text, one row at a time, as UTF-8 in the engine's own memory. While one block is read, the engine
/// computes those after it on a thread of its own.
/// </summary>
public sealed unsafe class TextRows : IDisposable
{
    private const int BlocksAhead = 8;

    private readonly Func<string, Exception> _failed;
    private DuckDBResult _result;
    private DuckDBDataChunk? _chunk;
    private BlockingCollection<DuckDBDataChunk>? _ahead;
    private Task? _fetching;
    private volatile bool _stops;
    private readonly TextValue*[] _values;
    private readonly ulong*[] _valid;
    private int _row = -1;
    private int _size;

    internal TextRows(DuckDBResult result, Func<string, Exception> failed)
    {
        _failed = failed;
        _result = result;
        Columns = (int)NativeMethods.Query.DuckDBColumnCount(ref _result);
        _values = new TextValue*[Columns];
        _valid = new ulong*[Columns];
    }

    /// <summary>The number of columns.</summary>
    public int Columns { get; }

    /// <summary>Goes to the next row; false at the end.</summary>
    /// <exception cref="SqlException">The query failed on the way.</exception>
    public bool Read()
    {
        while (++_row >= _size)
        {
            if (!NextBlock())
                return false;
            _row = -1;
        }

        return true;
    }

    /// <summary>Whether the current row has no value in the column, counted from 0.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool IsNull(int column) => _valid[column] != null && (_valid[column][_row / 64] & (1UL << (_row % 64))) == 0;

    /// <summary>The text of a column that is not null; good until the next <see cref="Read"/>.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public ReadOnlySpan<byte> Value(int column)
    {
        var value = _values[column] + _row;
        return new ReadOnlySpan<byte>(value->Length <= TextValue.Inline ? value->Inside : value->Pointer, (int)value->Length);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _stops = true;
        if (_ahead is not null)
        {
            foreach (var chunk in _ahead.GetConsumingEnumerable())
                chunk.Dispose();
            _fetching!.GetAwaiter().GetResult();
            _ahead.Dispose();
        }

        _chunk?.Dispose();
        NativeMethods.Query.DuckDBDestroyResult(ref _result);
    }

    private bool NextBlock()
    {
        var isFirst = _chunk is null;
        var next = _ahead is null ? Fetch() : _ahead.Take();
        _chunk?.Dispose();
        _chunk = next;
        if (_chunk.IsInvalid)
        {
            var error = NativeMethods.Query.DuckDBResultError(ref _result);
            return string.IsNullOrEmpty(error) ? false : throw _failed(error);
        }

        _size = (int)NativeMethods.DataChunks.DuckDBDataChunkGetSize(_chunk);
        if (_size == 0)
            return false;
        for (var column = 0; column < Columns; column++)
        {
            var vector = NativeMethods.DataChunks.DuckDBDataChunkGetVector(_chunk, column);
            _values[column] = (TextValue*)NativeMethods.Vectors.DuckDBVectorGetData(vector);
            _valid[column] = NativeMethods.Vectors.DuckDBVectorGetValidity(vector);
        }

        // Small results are over after one block, and not worth another thread.
        if (!isFirst && _ahead is null)
        {
            _ahead = new BlockingCollection<DuckDBDataChunk>(BlocksAhead);
            _fetching = Task.Factory.StartNew(FetchAll, CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
        }

        return true;
    }

    // The last chunk is an invalid one, which tells the end or an error.
    private void FetchAll()
    {
        DuckDBDataChunk chunk;
        do
        {
            chunk = Fetch();
            _ahead!.Add(chunk);
        }
        while (!_stops && !chunk.IsInvalid && NativeMethods.DataChunks.DuckDBDataChunkGetSize(chunk) > 0);
        _ahead.CompleteAdding();
    }

    private DuckDBDataChunk Fetch() => NativeMethods.StreamingResult.DuckDBStreamFetchChunk(_result);
}
