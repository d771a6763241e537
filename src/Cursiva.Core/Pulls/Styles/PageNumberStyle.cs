using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Pages are counted.</summary>
internal sealed class PageNumberStyle(Paging paging) : CountingPager(paging)
{
    public override string Words(Pull pull) => $"page numbers from {Paging.First} sent {Targets}";

    protected override long Number(long at, int rows, int size, int step) => at + step;
}
