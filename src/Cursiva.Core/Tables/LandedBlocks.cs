using System.Collections.Concurrent;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>
/// Landed rows as blocks of texts. Several pieces of the landing are walked over side by side, each by a walker of its own; the
/// blocks come in their order.
/// </summary>
/// <param name="newShape">Makes a shape with the columns of the blocks.</param>
/// <param name="rent">Gives an empty block.</param>
internal sealed class LandedBlocks(IReadOnlyList<LandedRows> rows, Func<RowShape> newShape, Func<TextBlock> rent)
{
    private const int PieceBytes = 2 * 1024 * 1024;
    private static readonly int s_lanes = Math.Clamp(Environment.ProcessorCount, 1, 4);

    private readonly ConcurrentBag<Lane> _idle = [];
    private readonly ConcurrentBag<Lane> _lanes = [];
    private volatile bool _outgrown;

    /// <summary>Names that stood twice in one row; the last value counts.</summary>
    public long NamesTwice => _lanes.Sum(lane => lane.Walker.Twice);

    /// <summary>A row has a column that the blocks have not, or has it in another form: the blocks are not all.</summary>
    public bool IsOutgrown => _outgrown;

    /// <summary>Walks over the rows.</summary>
    /// <exception cref="TableException">A text cannot be kept.</exception>
    public IEnumerable<TextBlock> Read(CancellationToken cancel)
    {
        var underWay = new Queue<Task<IReadOnlyList<TextBlock>>>();
        try
        {
            foreach (var (source, piece) in rows.SelectMany(source => source.Pieces(PieceBytes).Select(piece => (source, piece))))
            {
                if (_outgrown)
                    yield break;
                if (underWay.Count == s_lanes * 2)
                {
                    foreach (var block in underWay.Dequeue().GetAwaiter().GetResult())
                        yield return block;
                }

                underWay.Enqueue(Task.Run(() => Walk(source, piece, cancel), CancellationToken.None));
            }

            while (underWay.Count > 0)
            {
                foreach (var block in underWay.Dequeue().GetAwaiter().GetResult())
                    yield return block;
            }
        }
        finally
        {
            // Nobody fills a block after this.
            foreach (var left in underWay)
                ((IAsyncResult)left).AsyncWaitHandle.WaitOne();
        }
    }

    /// <summary>Tells a shape what the columns hold.</summary>
    /// <returns>False when the blocks are not what the rows are: they must be read again.</returns>
    public bool Teach(RowShape shape)
    {
        foreach (var lane in _lanes)
            shape.Learn(lane.Shape);
        return !_outgrown && !shape.IsOutgrown;
    }

    private IReadOnlyList<TextBlock> Walk(LandedRows source, Range piece, CancellationToken cancel)
    {
        if (!_idle.TryTake(out var lane))
        {
            lane = new Lane(newShape(), new TextBlocks(rent));
            _lanes.Add(lane);
        }

        lane.Walker.RowsBefore = source.RowsBefore(piece.Start.Value);
        source.Read(
            piece,
            (strand, lines) =>
            {
                if (!lane.Walker.Outgrown)
                    lane.Walker.Walk(lines, source.Carried(strand));
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
