using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Tests.Runs;

public sealed class DiskSpaceTests
{
    private const long MiB = 1024 * 1024;

    [Theory]
    [InlineData(100, 1024, 0, false)]
    [InlineData(3000, 1024, 1976, false)]
    [InlineData(3000, 1024, 1975, true)]
    public void What_does_not_fit_into_memory_must_fit_on_the_disk(long rows, long memory, long free, bool lacks) =>
        (DiskSpace.Lacking(rows * MiB, memory * MiB, free * MiB, "/state") is not null).ShouldBe(lacks);

    [Fact]
    public void A_disk_without_room_says_how_much_is_needed()
    {
        var refusal = DiskSpace.Lacking(3000 * MiB, 1024 * MiB, 10 * MiB, "/state/spill")!;
        refusal.Outcome.ShouldBe(Outcome.ReportFailed);
        refusal.What.ShouldBe("the disk has not enough room for the reports: 10 MiB are free where /state/spill is, and about 1,976 MiB are needed, since 3,000 MiB of rows do not fit into memory: 1,024 MiB");
        refusal.NextStep!.ShouldContain("make room");
    }
}
