using Cursiva.Core.Tables;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tests.Tables;

/// <summary>Blocks that count; every other row has no text.</summary>
internal sealed class Numbers(int blocks, Action ended) : IBlocks
{
    private readonly TextBlock _block = new(2);
    private int _given;

    public void Give(DuckDBDataChunk chunk)
    {
        _block.Empty();
        for (var row = 0; _given < blocks && row < TextBlock.MostRows; row++)
        {
            var n = (_given * TextBlock.MostRows) + row;
            _block.Set(0, System.Text.Encoding.UTF8.GetBytes($"{n}"));
            if (n % 2 == 0)
                _block.Set(1, System.Text.Encoding.UTF8.GetBytes($"a text that is longer than twelve bytes: {n}"));
            _block.EndRow();
        }

        _given++;
        _block.Give(chunk);
    }

    public void Dispose()
    {
        _block.Dispose();
        ended();
    }
}
