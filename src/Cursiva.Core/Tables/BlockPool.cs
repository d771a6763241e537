using System.Collections.Concurrent;

namespace Cursiva.Core.Tables;

/// <summary>Blocks that are filled again and again.</summary>
internal sealed class BlockPool(int columns) : IDisposable
{
    private readonly ConcurrentBag<TextBlock> _empty = [];
    private readonly ConcurrentBag<TextBlock> _all = [];

    /// <summary>Gives an empty block to fill.</summary>
    public TextBlock Rent()
    {
        if (_empty.TryTake(out var block))
            return block;
        block = new TextBlock(columns);
        _all.Add(block);
        return block;
    }

    /// <summary>Takes a block back whose rows nobody needs any more.</summary>
    public void Return(TextBlock block) => _empty.Add(block.Empty());

    /// <summary>Lets go of every block; nobody may fill or read one any more.</summary>
    public void Dispose()
    {
        foreach (var block in _all)
            block.Dispose();
        _all.Clear();
    }
}
