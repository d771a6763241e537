using System.Runtime.CompilerServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>A result whose columns are all text, one row at a time, as UTF-8 in the engine's own memory.</summary>
public sealed unsafe class TextRows : IDisposable
{
    private DuckDBResult _result;
    private DuckDBDataChunk? _chunk;
    private readonly TextValue*[] _values;
    private readonly ulong*[] _valid;
    private int _row = -1;
    private int _size;

    internal TextRows(DuckDBResult result)
    {
        _result = result;
        Columns = (int)NativeMethods.Query.DuckDBColumnCount(ref _result);
        _values = new TextValue*[Columns];
        _valid = new ulong*[Columns];
    }

    public int Columns { get; }

    /// <summary>Goes to the next row; false at the end.</summary>
    /// <exception cref="SqlException">The query failed on the way.</exception>
    public bool Read()
    {
        while (++_row >= _size)
        {
            _chunk?.Dispose();
            _chunk = NativeMethods.StreamingResult.DuckDBStreamFetchChunk(_result);
            if (_chunk.IsInvalid)
            {
                var error = NativeMethods.Query.DuckDBResultError(ref _result);
                return string.IsNullOrEmpty(error) ? false : throw SqlException.Of(error);
            }

            _size = (int)NativeMethods.DataChunks.DuckDBDataChunkGetSize(_chunk);
            _row = -1;
            if (_size == 0)
                return false;
            for (var column = 0; column < Columns; column++)
            {
                var vector = NativeMethods.DataChunks.DuckDBDataChunkGetVector(_chunk, column);
                _values[column] = (TextValue*)NativeMethods.Vectors.DuckDBVectorGetData(vector);
                _valid[column] = NativeMethods.Vectors.DuckDBVectorGetValidity(vector);
            }
        }

        return true;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool IsNull(int column) => _valid[column] != null && (_valid[column][_row / 64] & (1UL << (_row % 64))) == 0;

    /// <summary>The text of a column that is not null; good until the next <see cref="Read"/>.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public ReadOnlySpan<byte> Value(int column)
    {
        var value = _values[column] + _row;
        return new ReadOnlySpan<byte>(value->Length <= TextValue.Inline ? value->Inside : value->Pointer, (int)value->Length);
    }

    public void Dispose()
    {
        _chunk?.Dispose();
        NativeMethods.Query.DuckDBDestroyResult(ref _result);
    }
}
