using System.Collections.Concurrent;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>
/// Fills a table with landed rows. Several pieces of the landing are walked over side by side, each by a walker of its own; the
/// table gets them in their order.
/// </summary>
/// <param name="newShape">Makes a shape with the columns of the table.</param>
internal sealed class TableFill(TextAppender appender, Func<RowShape> newShape)
{
    private const int PieceBytes = 2 * 1024 * 1024;
    private static readonly int s_lanes = Math.Clamp(Environment.ProcessorCount, 1, 4);

    private readonly ConcurrentBag<Lane> _idle = [];
    private readonly ConcurrentBag<Lane> _lanes = [];
    private volatile bool _outgrown;

    /// <summary>Names that stood twice in one row; the last value counts.</summary>
    public long NamesTwice => _lanes.Sum(lane => lane.Walker.Twice);

    /// <summary>Fills the table.</summary>
    /// <param name="shape">Takes what the columns hold.</param>
    /// <returns>False when a row has a column that the table has not, or has in another form: it must be filled anew.</returns>
    /// <exception cref="TableException">A text cannot be kept.</exception>
    public bool Fill(IReadOnlyList<LandedRows> rows, RowShape shape, CancellationToken cancel)
    {
        var underWay = new Queue<Task<IReadOnlyList<TextBlock>>>();
        try
        {
            foreach (var (source, piece) in rows.SelectMany(source => source.Pieces(PieceBytes).Select(piece => (source, piece))))
            {
                if (_outgrown)
                    return false;
                if (underWay.Count == s_lanes * 2)
                    Add(underWay.Dequeue());
                underWay.Enqueue(Task.Run(() => Walk(source, piece, cancel), CancellationToken.None));
            }

            while (underWay.Count > 0)
                Add(underWay.Dequeue());
        }
        finally
        {
            // Nobody fills a block of the appender after this.
            foreach (var left in underWay)
                ((IAsyncResult)left).AsyncWaitHandle.WaitOne();
        }

        foreach (var lane in _lanes)
            shape.Learn(lane.Shape);
        return !_outgrown && !shape.IsOutgrown;
    }

    private void Add(Task<IReadOnlyList<TextBlock>> walked)
    {
        foreach (var block in walked.GetAwaiter().GetResult())
            appender.Add(block);
    }

    private IReadOnlyList<TextBlock> Walk(LandedRows source, Range piece, CancellationToken cancel)
    {
        if (!_idle.TryTake(out var lane))
        {
            lane = new Lane(newShape(), new TextBlocks(appender.Rent));
            _lanes.Add(lane);
        }

        lane.Walker.RowsBefore = source.RowsBefore(piece.Start.Value);
        source.Read(
            piece,
            (page, lines) =>
            {
                if (!lane.Walker.Outgrown)
                    lane.Walker.Walk(lines, source.Carried(page.Strand));
            },
            cancel);
        _outgrown |= lane.Walker.Outgrown;
        var blocks = lane.Blocks.Take();
        _idle.Add(lane);
        return blocks;
    }

    private sealed class Lane(RowShape shape, TextBlocks blocks)
    {
        public RowShape Shape => shape;

        public TextBlocks Blocks => blocks;

        public RowWalker Walker { get; } = new(shape, blocks, shape.Columns.Count);
    }
}
