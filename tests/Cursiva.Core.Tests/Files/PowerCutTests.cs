using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Landing;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Pulls;

namespace Cursiva.Core.Tests.Files;

/// <summary>The power goes at every operation on the disk, with any part of what was not flushed left.</summary>
public sealed class PowerCutTests : IDisposable
{
    // So many different remains of each moment.
    private const int Remains = 6;

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public async Task Every_committed_page_is_there_and_nothing_is_there_twice()
    {
        await SweepAsync(12, async (disk, name) =>
        {
            var committed = 0;
            try
            {
                await using var landing = new RunLanding(disk, _folder[name], TimeProvider.System, segmentSize: 5);
                var pull = landing.Open("p");
                for (var row = 0; row < 6; row++)
                {
                    pull.Append(StrandKey.Only, Encoding.UTF8.GetBytes($"{row}\n"), 1, row < 5 ? "more" : null);
                    if (row % 2 == 0)
                        continue;
                    await landing.CommitAsync(CancellationToken.None);
                    committed = row + 1;
                }
            }
            catch (IOException)
            {
                disk.IsCut.ShouldBeTrue();
            }

            disk.PowerOn();
            await using var again = new RunLanding(new Disk(), _folder[name], TimeProvider.System);
            again.Open("p");
            var rows = Encoding.UTF8.GetString([.. again.Open("p") is var open ? open.Committed().SelectMany(open.Read) : []]).Replace("\n", "");
            "012345".ShouldStartWith(rows);
            rows.Length.ShouldBeGreaterThanOrEqualTo(committed);
        });
    }

    [Fact]
    public async Task The_files_of_a_report_are_all_as_before_or_all_new()
    {
        await SweepAsync(12, (disk, name) =>
        {
            var (a, b, list) = (_folder[$"{name}/a.csv"], _folder[$"{name}/b.csv"], _folder[$"{name}/list.json"]);
            Directory.CreateDirectory(_folder[name]);
            File.WriteAllText(a, "old");
            File.WriteAllText(b, "old");
            var published = false;
            try
            {
                var set = new FileSet(disk, _folder[name], list);
                foreach (var path in new[] { a, b })
                {
                    using var stream = set.Begin(path);
                    stream.Write("new, and longer"u8);
                    stream.Flush();
                }

                set.Publish();
                published = true;
            }
            catch (IOException)
            {
                disk.IsCut.ShouldBeTrue();
            }

            disk.PowerOn();
            FileSet.Finish(new Disk(), list);
            var contents = new[] { File.ReadAllText(a), File.ReadAllText(b) };
            contents.Distinct().Count().ShouldBe(1, string.Join(" and ", contents));
            contents[0].ShouldBeOneOf("old", "new, and longer");
            if (published)
                contents[0].ShouldBe("new, and longer");
            return Task.CompletedTask;
        });
    }

    [Fact]
    public async Task A_small_file_is_there_whole_as_before_or_as_it_is_now()
    {
        await SweepAsync(5, (disk, name) =>
        {
            Directory.CreateDirectory(_folder[name]);
            File.WriteAllText(_folder[$"{name}/f"], "old");
            var written = false;
            try
            {
                WholeFile.Write(disk, _folder[$"{name}/f"], "new"u8);
                written = true;
            }
            catch (IOException)
            {
                disk.IsCut.ShouldBeTrue();
            }

            disk.PowerOn();
            File.ReadAllText(_folder[$"{name}/f"]).ShouldBeOneOf(written ? ["new"] : ["old", "new"]);
            return Task.CompletedTask;
        });
    }

    [Fact]
    public async Task A_pull_that_is_resumed_has_every_row_once()
    {
        await using var pulls = new PullHarness();
        const string Job = "all: { get: /rows, rows: /items, paging: { cursor: /next, parameter: c } }\neach: { per: all, get: '/each/{all.id}', rows: '' }";
        HttpResponseMessage Answer(HttpRequestMessage request) => request.RequestUri!.AbsolutePath != "/rows" ? FakeServer.Json($$"""[{"each":"{{request.RequestUri.AbsolutePath}}"}]""")
            : request.RequestUri.Query.Length == 0 ? FakeServer.Json("""{"items":[{"id":1},{"id":2}],"next":"x"}""") : FakeServer.Json("""{"items":[{"id":3}],"next":null}""");
        await SweepAsync(8, async (disk, name) =>
        {
            try
            {
                await pulls.RunAsync(Job, Answer, name, disk);
            }
            catch (IOException)
            {
                disk.IsCut.ShouldBeTrue();
            }

            disk.PowerOn();
            await pulls.RunAsync(Job, Answer, name);
            pulls.Rows["all"].ShouldBe("{\"id\":1}\n{\"id\":2}\n{\"id\":3}\n");
            pulls.Rows["each"].ShouldBe("{\"each\":\"/each/1\"}\n{\"each\":\"/each/2\"}\n{\"each\":\"/each/3\"}\n");
        });
    }

    // Until the power lasts to the end.
    private static async Task SweepAsync(int atLeast, Func<PowerCutDisk, string, Task> moment)
    {
        var wasCut = true;
        var cuts = 0;
        for (; wasCut; cuts++)
        {
            wasCut = false;
            for (var seed = 0; seed < Remains; seed++)
            {
                var disk = new PowerCutDisk(cuts + 1, (cuts * Remains) + seed);
                await moment(disk, $"cut-{cuts}-{seed}");
                wasCut |= disk.IsCut;
            }
        }

        cuts.ShouldBeGreaterThanOrEqualTo(atLeast, "the sweep must have met what it is for");
    }
}
