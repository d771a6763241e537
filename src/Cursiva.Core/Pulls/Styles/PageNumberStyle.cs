using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>Pages are counted.</summary>
internal sealed class PageNumberStyle(Paging paging) : CountingPager(paging)
{
    private static readonly Key PageNumber = new("page-number", KeyKind.Number, "counts pages; the number of the first page, 0 or 1")
    {
        Least = 0,
        Most = 1,
        Example = "1",
    };

    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(paging => new PageNumberStyle(paging))
    {
        Keys = [PageNumber],
        IsCounted = true,
        CountsPages = true,
        SendsValues = true,
        AsksBehindTheEnd = true,
        Read = (section, _, paging) => paging with { First = section.Whole(PageNumber) ?? 0 },
    };

    public override string Words(Pull pull) => $"page numbers from {Paging.First} sent {Targets}";

    protected override long Number(long at, int rows, int size, int step) => at + step;
}
