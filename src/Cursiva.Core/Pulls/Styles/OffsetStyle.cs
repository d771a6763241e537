using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>Rows are counted.</summary>
internal sealed class OffsetStyle(Paging paging) : CountingPager(paging)
{
    private static readonly Key Offset = new("offset", KeyKind.Number, "counts rows; the number of the first row, 0 or 1")
    {
        Least = 0,
        Most = 1,
        Example = "0",
    };

    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(paging => new OffsetStyle(paging))
    {
        Keys = [Offset],
        IsCounted = true,
        SendsValues = true,
        AsksBehindTheEnd = true,
        Read = (section, _, paging) => paging with { First = section.Whole(Offset) ?? 0 },
    };

    public override string Words(Pull pull) => $"offsets from {Paging.First} sent {Targets}";

    protected override long Number(long at, int rows, int size, int step) => at + rows + ((step - 1) * (long)size);
}
