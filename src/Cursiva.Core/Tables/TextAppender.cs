using System.Runtime.CompilerServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>Adds rows to a table whose columns are all text, a block of rows at a time.</summary>
internal sealed unsafe class TextAppender : IDisposable
{
    private const int BlockRows = 2048;

    private readonly DuckDBAppender _appender;
    private readonly DuckDBDataChunk _chunk;
    private readonly IntPtr[] _vectors;
    private readonly TextValue*[] _values;
    private readonly ulong*[] _valid;
    private readonly int[] _lastSet;
    private int _row;

    public TextAppender(DuckDBNativeConnection connection, string schema, string table, int columns)
    {
        if (NativeMethods.Appender.DuckDBAppenderCreate(connection, schema, table, out _appender) != DuckDBState.Success)
            throw new SqlException($"cannot add rows to {schema}.{table}", null);

        using var text = NativeMethods.LogicalType.DuckDBCreateLogicalType(DuckDBType.Varchar);
        var types = new IntPtr[columns];
        Array.Fill(types, text.DangerousGetHandle());
        _chunk = NativeMethods.DataChunks.DuckDBCreateDataChunk(types, (ulong)columns);
        _vectors = new IntPtr[columns];
        _values = new TextValue*[columns];
        _valid = new ulong*[columns];
        _lastSet = new int[columns];
        Begin();
    }

    /// <summary>Sets a column of the present row; a later value replaces an earlier one.</summary>
    /// <returns>Whether the column had a value or a null already.</returns>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public bool Set(int column, ReadOnlySpan<byte> utf8)
    {
        var twice = Mark(column);
        var value = _values[column] + _row;
        if (utf8.Length <= TextValue.Inline)
        {
            // The engine compares short texts whole, so the rest must be zero.
            *value = default;
            value->Length = (uint)utf8.Length;
            utf8.CopyTo(new Span<byte>(value->Inside, TextValue.Inline));
        }
        else
        {
            fixed (byte* bytes = utf8)
                NativeMethods.Vectors.DuckDBUnsafeVectorAssignStringElementLength(_vectors[column], (ulong)_row, bytes, utf8.Length);
        }

        if (twice)
            _valid[column][_row / 64] |= 1UL << (_row % 64);
        return twice;
    }

    /// <summary>Sets a column of the present row to null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public bool SetNull(int column)
    {
        var twice = Mark(column);
        _valid[column][_row / 64] &= ~(1UL << (_row % 64));
        return twice;
    }

    /// <summary>Ends the present row; columns that were not set are null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void EndRow()
    {
        for (var column = 0; column < _lastSet.Length; column++)
        {
            if (_lastSet[column] != _row)
                _valid[column][_row / 64] &= ~(1UL << (_row % 64));
        }

        if (++_row == BlockRows)
            Flush();
    }

    /// <summary>Ends the table: all rows are in it.</summary>
    /// <exception cref="SqlException">The engine could not take them.</exception>
    public void Finish()
    {
        if (_row > 0)
            Flush();
        Check(NativeMethods.Appender.DuckDBAppenderClose(_appender));
    }

    public void Dispose()
    {
        _chunk.Dispose();
        _appender.Dispose();
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private bool Mark(int column)
    {
        var twice = _lastSet[column] == _row;
        _lastSet[column] = _row;
        return twice;
    }

    private void Flush()
    {
        NativeMethods.DataChunks.DuckDBDataChunkSetSize(_chunk, (ulong)_row);
        Check(NativeMethods.Appender.DuckDBAppendDataChunk(_appender, _chunk));
        NativeMethods.DataChunks.DuckDBDataChunkReset(_chunk);
        Begin();
    }

    private void Begin()
    {
        _row = 0;
        Array.Fill(_lastSet, -1);
        for (var column = 0; column < _vectors.Length; column++)
        {
            _vectors[column] = NativeMethods.DataChunks.DuckDBDataChunkGetVector(_chunk, column);
            _values[column] = (TextValue*)NativeMethods.Vectors.DuckDBVectorGetData(_vectors[column]);
            NativeMethods.Vectors.DuckDBVectorEnsureValidityWritable(_vectors[column]);
            _valid[column] = NativeMethods.Vectors.DuckDBVectorGetValidity(_vectors[column]);
            new Span<ulong>(_valid[column], BlockRows / 64).Fill(ulong.MaxValue);
        }
    }

    private void Check(DuckDBState state)
    {
        if (state != DuckDBState.Success)
        {
            using var error = NativeMethods.Appender.DuckDBAppenderErrorData(_appender);
            throw new SqlException("the SQL engine could not take the rows; it may be out of memory or disk space", null);
        }
    }
}
