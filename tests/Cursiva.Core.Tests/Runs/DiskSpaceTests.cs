using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tests.Files;

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
        refusal.What.ShouldBe("the disk does not have enough room for the reports: 10 MiB are free at /state/spill, but about 1,976 MiB are needed, since 3,000 MiB of rows do not fit into memory: 1,024 MiB");
        refusal.NextStep!.ShouldContain("make room");
    }

    /// <summary>The command of the message is <c>cursiva report</c>, which is <see cref="ReportAgain"/>; the program's tests know the message by these words.</summary>
    [Fact]
    public async Task Once_there_is_room_the_reports_are_written_from_the_landed_rows()
    {
        _ = ("DiskSpace.cs", "the disk does not have enough room for the reports", "make room, or raise memory:, and write the reports with cursiva report");
        using var folder = new TemporaryFolder();
        using var server = new System.Net.HttpListener();
        var address = FreeAddress();
        server.Prefixes.Add(address + "/");
        server.Start();
        var path = folder.Write("job.cursiva.yaml", $"cursiva: 1\napis: {{ x: {{ base: '{address}', attempts: 1 }} }}\npulls: {{ p: {{ get: /p, rows: /rows }} }}\nreports: {{ r: {{ sql: select n from p, write: r.csv }} }}\n");
        var memory = 1L;
        Job Read(DateTimeOffset now) => JobReader.Read(path, new GivenInputs([], [], _ => null), now) with { Memory = memory };
        var (disk, state) = (new CrowdedDisk(), new StateFolder(folder["state"]));
        var options = new RunOptions(StartChoice.Either, state, new SqliteEngine(state, disk, TimeProvider.System), disk, TimeProvider.System, new Redactor(), _ => null, "here");
        var answering = Task.Run(async () => (await server.GetContextAsync()).Response.Close("""{"rows":[{"n":1}]}"""u8.ToArray(), willBlock: true), TestContext.Current.CancellationToken);
        var summary = await new JobRun(options, new SilentRun()).ExecuteAsync(Read(DateTimeOffset.UtcNow), Read, default);
        await answering;
        summary.Outcome.ShouldBe(Outcome.ReportFailed);
        summary.Refusal!.What.ShouldStartWith("the disk does not have enough room for the reports");
        summary.Refusal.NextStep!.ShouldStartWith("make room, or raise memory:, and write the reports with cursiva report");

        (disk.IsCrowded, memory) = (false, 64 * MiB);
        (await new ReportAgain(options, new SilentRun()).ExecuteAsync((now, _) => Read(now), null, null, default)).Outcome.ShouldBe(Outcome.Done);
        File.ReadAllText(folder["reports/r.csv"]).ShouldBe("n\r\n1\r\n");
    }

    private static string FreeAddress()
    {
        using var free = new System.Net.Sockets.TcpListener(System.Net.IPAddress.Loopback, 0);
        free.Start();
        return $"http://127.0.0.1:{((System.Net.IPEndPoint)free.LocalEndpoint).Port}";
    }

    private sealed class CrowdedDisk : DiskDouble
    {
        public bool IsCrowded { get; set; } = true;

        public override long FreeBytes(string folder) => IsCrowded ? 0 : base.FreeBytes(folder);
    }
}
