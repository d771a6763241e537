using System.Runtime.CompilerServices;

namespace Cursiva.Core.Tables;

/// <summary>Takes rows into one block after the other.</summary>
/// <param name="rent">Gives an empty block.</param>
internal sealed class TextBlocks(Func<TextBlock> rent)
{
    private readonly List<TextBlock> _full = [];
    private TextBlock? _filling;

    /// <summary>Sets a column of the present row; a later value replaces an earlier one.</summary>
    /// <returns>Whether the column had a value or a null already.</returns>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool Set(int column, ReadOnlySpan<byte> utf8) => (_filling ??= rent()).Set(column, utf8);

    /// <summary>Sets a column of the present row to null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool SetNull(int column) => (_filling ??= rent()).SetNull(column);

    /// <summary>Ends the present row; columns that were not set are null.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public void EndRow()
    {
        var block = _filling ??= rent();
        block.EndRow();
        if (block.Rows == TextBlock.MostRows)
        {
            _full.Add(block);
            _filling = null;
        }
    }

    /// <summary>The blocks so far, in order; the last one may not be full. The next ones start over.</summary>
    public IReadOnlyList<TextBlock> Take()
    {
        if (_filling is not null)
            _full.Add(_filling);
        _filling = null;
        List<TextBlock> taken = [.. _full];
        _full.Clear();
        return taken;
    }
}
