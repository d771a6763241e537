using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Rows are counted.</summary>
internal sealed class OffsetStyle(Paging paging) : CountingPager(paging)
{
    public override string Words(Pull pull) => $"offsets from {Paging.First} sent {Targets}";

    protected override long Number(long at, int rows, int size, int step) => at + rows + ((step - 1) * (long)size);
}
