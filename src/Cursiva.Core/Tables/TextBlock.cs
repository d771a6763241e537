using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>A block of rows on its way into a table. The engine reads the texts where they are, until it asks for the next block.</summary>
internal sealed unsafe class TextBlock : IDisposable
{
    /// <summary>Rows of a full block, as the engine counts them.</summary>
    public const int MostRows = 2048;

    private const int SlabSize = 256 * 1024;
    private const int ValidWords = MostRows / 64;

    private readonly TextValue*[] _values;
    private readonly ulong*[] _valid;
    private readonly int[] _lastSet;
    private readonly List<(IntPtr Start, int Size)> _slabs = [];
    private int _slab;
    private byte* _free;
    private byte* _end;

    public TextBlock(int columns)
    {
        _values = new TextValue*[columns];
        _valid = new ulong*[columns];
        for (var column = 0; column < columns; column++)
        {
            _values[column] = (TextValue*)NativeMemory.Alloc(MostRows, (nuint)sizeof(TextValue));
            _valid[column] = (ulong*)NativeMemory.Alloc(ValidWords, sizeof(ulong));
        }

        _lastSet = new int[columns];
        Empty();
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

    /// <summary>Shows the rows to the engine. The texts stay here.</summary>
    public void Give(DuckDBDataChunk chunk)
    {
        for (var column = 0; column < _values.Length; column++)
        {
            var vector = NativeMethods.DataChunks.DuckDBDataChunkGetVector(chunk, column);
            new Span<TextValue>(_values[column], Rows).CopyTo(new Span<TextValue>(NativeMethods.Vectors.DuckDBVectorGetData(vector), Rows));
            var valid = new Span<ulong>(_valid[column], ValidWords);
            if (valid.ContainsAnyExcept(ulong.MaxValue))
            {
                NativeMethods.Vectors.DuckDBVectorEnsureValidityWritable(vector);
                valid.CopyTo(new Span<ulong>(NativeMethods.Vectors.DuckDBVectorGetValidity(vector), ValidWords));
            }
        }

        NativeMethods.DataChunks.DuckDBDataChunkSetSize(chunk, (ulong)Rows);
    }

    /// <summary>Starts over.</summary>
    /// <returns>The block.</returns>
    public TextBlock Empty()
    {
        Rows = 0;
        _slab = 0;
        _free = _end = null;
        Array.Fill(_lastSet, -1);
        foreach (var valid in _valid)
            new Span<ulong>(valid, ValidWords).Fill(ulong.MaxValue);
        return this;
    }

    public void Dispose()
    {
        foreach (var values in _values)
            NativeMemory.Free(values);
        foreach (var valid in _valid)
            NativeMemory.Free(valid);
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
}
