using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>A block of rows on its way into a table; the engine copies the texts when it takes the block.</summary>
internal sealed unsafe class TextBlock : IDisposable
{
    /// <summary>Rows of a full block, as the engine counts them.</summary>
    public const int MostRows = 2048;

    private const int SlabSize = 256 * 1024;

    private readonly DuckDBDataChunk _chunk;
    private readonly TextValue*[] _values;
    private readonly ulong*[] _valid;
    private readonly int[] _lastSet;
    private readonly List<(IntPtr Start, int Size)> _slabs = [];
    private int _slab;
    private byte* _free;
    private byte* _end;

    public TextBlock(int columns)
    {
        using var text = NativeMethods.LogicalType.DuckDBCreateLogicalType(DuckDBType.Varchar);
        var types = new IntPtr[columns];
        Array.Fill(types, text.DangerousGetHandle());
        _chunk = NativeMethods.DataChunks.DuckDBCreateDataChunk(types, (ulong)columns);
        _values = new TextValue*[columns];
        _valid = new ulong*[columns];
        _lastSet = new int[columns];
        Begin();
    }

    /// <summary>Whole rows in it.</summary>
    public int Rows { get; private set; }

    /// <summary>Sets a column of the present row; a later value replaces an earlier one.</summary>
    /// <returns>Whether the column had a value or a null already.</returns>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public bool Set(int column, ReadOnlySpan<byte> utf8)
    {
        var twice = Mark(column);
        var value = _values[column] + Rows;
        value->Length = (uint)utf8.Length;
        if (utf8.Length <= TextValue.Inline)
        {
            // The engine compares short texts whole, so the rest must be zero.
            Unsafe.InitBlockUnaligned(value->Inside, 0, TextValue.Inline);
            utf8.CopyTo(new Span<byte>(value->Inside, TextValue.Inline));
        }
        else
        {
            var place = Take(utf8.Length);
            utf8.CopyTo(new Span<byte>(place, utf8.Length));
            Unsafe.CopyBlockUnaligned(value->Inside, place, 4);
            value->Pointer = place;
        }

        if (twice)
            _valid[column][Rows / 64] |= 1UL << (Rows % 64);
        return twice;
    }

    /// <summary>Sets a column of the present row to null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public bool SetNull(int column)
    {
        var twice = Mark(column);
        _valid[column][Rows / 64] &= ~(1UL << (Rows % 64));
        return twice;
    }

    /// <summary>Ends the present row; columns that were not set are null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void EndRow()
    {
        for (var column = 0; column < _lastSet.Length; column++)
        {
            if (_lastSet[column] != Rows)
                _valid[column][Rows / 64] &= ~(1UL << (Rows % 64));
        }

        Rows++;
    }

    /// <summary>Gives the rows to the engine and begins anew.</summary>
    /// <exception cref="SqlException">The engine could not take them.</exception>
    public void MoveInto(DuckDBAppender appender)
    {
        NativeMethods.DataChunks.DuckDBDataChunkSetSize(_chunk, (ulong)Rows);
        TextAppender.Check(appender, NativeMethods.Appender.DuckDBAppendDataChunk(appender, _chunk));
        NativeMethods.DataChunks.DuckDBDataChunkReset(_chunk);
        Begin();
    }

    public void Dispose()
    {
        _chunk.Dispose();
        foreach (var (start, _) in _slabs)
            NativeMemory.Free((void*)start);
        _slabs.Clear();
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private bool Mark(int column)
    {
        var twice = _lastSet[column] == Rows;
        _lastSet[column] = Rows;
        return twice;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private byte* Take(int length)
    {
        if (_end - _free < length)
            NextSlab(length);
        var place = _free;
        _free += length;
        return place;
    }

    // Slabs are used again, block after block; a long text may need a larger one.
    private void NextSlab(int length)
    {
        while (_slab < _slabs.Count && _slabs[_slab].Size < length)
            _slab++;
        if (_slab == _slabs.Count)
        {
            var size = Math.Max(SlabSize, length);
            _slabs.Add(((IntPtr)NativeMemory.Alloc((nuint)size), size));
        }

        var (start, available) = _slabs[_slab++];
        _free = (byte*)start;
        _end = _free + available;
    }

    private void Begin()
    {
        Rows = 0;
        _slab = 0;
        _free = _end = null;
        Array.Fill(_lastSet, -1);
        for (var column = 0; column < _values.Length; column++)
        {
            var vector = NativeMethods.DataChunks.DuckDBDataChunkGetVector(_chunk, column);
            _values[column] = (TextValue*)NativeMethods.Vectors.DuckDBVectorGetData(vector);
            NativeMethods.Vectors.DuckDBVectorEnsureValidityWritable(vector);
            _valid[column] = NativeMethods.Vectors.DuckDBVectorGetValidity(vector);
            new Span<ulong>(_valid[column], MostRows / 64).Fill(ulong.MaxValue);
        }
    }
}
