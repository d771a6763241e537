using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>Blocks of rows that the engine asks for, one after the other.</summary>
internal interface IBlocks : IDisposable
{
    /// <summary>Gives the next block; one without rows when there is none any more. The block before has been read.</summary>
    void Give(DuckDBDataChunk chunk);
}
