using Cursiva.Core.Landing;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>The rows of a pull, straight from the landing.</summary>
internal sealed class RowScan : IBlocks
{
    private readonly BlockPool _pool;
    private readonly LandedBlocks _source;
    private readonly IEnumerator<TextBlock> _blocks;
    private TextBlock? _given;

    public RowScan(IReadOnlyList<LandedRows> rows, RowShape shape)
    {
        _pool = new BlockPool(shape.Columns.Count);
        _source = new LandedBlocks(rows, shape.Copy, _pool.Rent);
        _blocks = _source.Read(CancellationToken.None).GetEnumerator();
    }

    public void Give(DuckDBDataChunk chunk)
    {
        if (_given is { } read)
            _pool.Return(read);
        _given = _blocks.MoveNext() ? _blocks.Current : null;
        if (_source.IsOutgrown)
            throw new InvalidOperationException("the rows changed while they were read");
        if (_given is { } next)
            next.Give(chunk);
        else
            NativeMethods.DataChunks.DuckDBDataChunkSetSize(chunk, 0);
    }

    public void Dispose()
    {
        _blocks.Dispose();
        _pool.Dispose();
    }
}
