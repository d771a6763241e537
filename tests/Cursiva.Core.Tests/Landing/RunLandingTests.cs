using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Landing;
using Cursiva.Core.Tests.Files;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Landing;

public sealed class RunLandingTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly FakeTimeProvider _clock = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public async Task Rows_are_read_in_strand_and_page_order_whatever_order_they_came_in()
    {
        await using var landing = Open();
        var pull = landing.Open("p");
        Append(pull, strand: "b", "c", next: "2");
        Append(pull, strand: "a", "a", next: null);
        Append(pull, strand: "b", "d", next: null);
        await landing.CommitAsync(CancellationToken.None);
        Read(landing).ShouldBe("a\nc\nd\n");
    }

    [Fact]
    public async Task Only_what_was_committed_counts_and_the_rest_is_cut_off()
    {
        await using (var landing = Open())
        {
            var pull = landing.Open("p");
            Append(pull, StrandKey.Only, "a", "1");
            await landing.CommitAsync(CancellationToken.None);
            Append(pull, StrandKey.Only, "lost", "2");
        }

        await using var again = Open();
        var reopened = again.Open("p");
        reopened.Last(StrandKey.Only)!.Next.ShouldBe("1");
        new FileInfo(_folder["landing/p/segment-00000.jsonl"]).Length.ShouldBe(2);
        Append(reopened, StrandKey.Only, "b", null);
        await again.CommitAsync(CancellationToken.None);
        Read(again).ShouldBe("a\nb\n");
    }

    [Fact]
    public async Task A_committed_page_outlives_a_power_cut()
    {
        var disk = new ForgetfulDisk();
        await using (var landing = new RunLanding(disk, _folder["landing"], _clock, segmentSize: 3))
        {
            var pull = landing.Open("p");
            foreach (var row in new[] { "a", "b", "c", "d", "e" })
                Append(pull, StrandKey.Only, row, row);
            await landing.CommitAsync(CancellationToken.None);
            Append(pull, StrandKey.Only, "not committed", null);
            disk.CutPower();
        }

        await using var again = new RunLanding(disk, _folder["landing"], _clock, segmentSize: 3);
        again.Open("p").Last(StrandKey.Only)!.Next.ShouldBe("e");
        Read(again).ShouldBe("a\nb\nc\nd\ne\n");
    }

    [Fact]
    public async Task After_a_failed_flush_nothing_more_is_committed_and_what_was_committed_before_stays()
    {
        // Whichever operation fails: what is committed is a beginning of what was written, without a hole.
        var failures = 0;
        for (var fails = 1; ; fails++)
        {
            var folder = _folder[$"landing-{fails}"];
            var disk = new FailingDisk(fails);
            var told = false;
            var committed = 0;
            try
            {
                await using var landing = new RunLanding(disk, folder, _clock, segmentSize: 6);
                var pull = landing.Open("p");
                for (var row = 0; row < 8; row++)
                {
                    try
                    {
                        Append(pull, StrandKey.Only, row.ToString(), row < 7 ? "more" : null);
                        await landing.CommitAsync(CancellationToken.None);
                        committed = row + 1;
                    }
                    catch (IOException)
                    {
                        told = true;
                    }
                }
            }
            catch (IOException)
            {
                told = true;
            }

            if (disk.Failed is null)
                break;
            failures++;
            told.ShouldBeTrue(disk.Failed);
            await using var again = new RunLanding(new Disk(), folder, _clock);
            again.Open("p");
            var rows = Read(again).Replace("\n", "");
            "01234567".ShouldStartWith(rows);
            rows.Length.ShouldBe(committed, disk.Failed);
        }

        failures.ShouldBeGreaterThan(15);
    }

    [Fact]
    public async Task A_page_that_is_written_while_the_one_before_fails_is_not_committed_behind_the_hole()
    {
        var counting = new FailingDisk(0);
        await using (var landing = new RunLanding(counting, _folder["count"], _clock))
            Append(landing.Open("p"), StrandKey.Only, "a", "more");

        // The next operation is the flush of the segment.
        var disk = new FailingDisk(counting.Done + 1);
        await using (var landing = new RunLanding(disk, _folder["landing"], _clock))
        {
            var pull = landing.Open("p");
            Append(pull, StrandKey.Only, "a", "more");
            disk.Meanwhile = () => Append(pull, StrandKey.Only, "b", null);
            await Should.ThrowAsync<IOException>(() => landing.CommitAsync(CancellationToken.None));
            disk.Failed.ShouldNotBeNull().ShouldStartWith("flush segment");
            await Should.ThrowAsync<IOException>(() => landing.CommitAsync(CancellationToken.None));
        }

        await using var again = new RunLanding(new Disk(), _folder["landing"], _clock);
        again.Open("p");
        Read(again).ShouldBe("");
    }

    [Fact]
    public async Task A_landing_with_a_hole_is_refused()
    {
        await using (var landing = Open())
        {
            var pull = landing.Open("p");
            foreach (var row in new[] { "a", "b", "c" })
                Append(pull, StrandKey.Only, row, "more");
            await landing.CommitAsync(CancellationToken.None);
        }

        foreach (var missing in new[] { 1, 0 })
        {
            using (var connection = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={_folder["landing/pages.db"]};Pooling=False"))
            {
                connection.Open();
                using var command = connection.CreateCommand();
                command.CommandText = $"delete from pages where page = {missing}";
                command.ExecuteNonQuery();
            }

            await using var again = Open();
            Should.Throw<LandingDamagedException>(() => again.Open("p")).Message.ShouldBe($"page {missing + 1} of pull 'p' is missing from the landing, but page {(missing == 1 ? 3 : 3)} exists");
        }
    }

    [Fact]
    public async Task Pages_are_committed_in_the_background()
    {
        await using (var landing = Open())
        {
            Append(landing.Open("p"), StrandKey.Only, "a", "1");
            for (var tries = 0; tries < 200 && landing.Read("p").Count == 0; tries++)
            {
                _clock.Advance(RunLanding.GroupTime);
                await Task.Delay(10, CancellationToken.None);
            }

            landing.Read("p").Count.ShouldBe(1);
        }
    }

    [Fact]
    public async Task A_changed_byte_is_noticed()
    {
        await using (var landing = Open())
        {
            Append(landing.Open("p"), StrandKey.Only, "abc", null);
            await landing.CommitAsync(CancellationToken.None);
        }

        var path = _folder["landing/p/segment-00000.jsonl"];
        var bytes = await File.ReadAllBytesAsync(path, CancellationToken.None);
        bytes[1] ^= 1;
        await File.WriteAllBytesAsync(path, bytes, CancellationToken.None);

        await using var again = Open();
        Should.Throw<LandingDamagedException>(() => again.Open("p")).Message.ShouldContain("page 1 of pull 'p'");
        Should.Throw<LandingDamagedException>(() => Read(again));
    }

    [Fact]
    public async Task Segments_follow_each_other_and_are_read_as_one()
    {
        await using var landing = new RunLanding(new Core.Files.Disk(), _folder["landing"], _clock, segmentSize: 4);
        var pull = landing.Open("p");
        for (var i = 0; i < 10; i++)
            Append(pull, StrandKey.Only, i.ToString(), i < 9 ? "x" : null);
        await landing.CommitAsync(CancellationToken.None);
        Directory.GetFiles(_folder["landing/p"]).Length.ShouldBe(5);
        Read(landing).ShouldBe("0\n1\n2\n3\n4\n5\n6\n7\n8\n9\n");
    }

    [Fact]
    public async Task A_strand_that_was_asked_for_anew_is_left_out_and_those_made_from_its_rows_are_not()
    {
        await using var landing = Open();
        var pull = landing.Open("p");
        Append(pull, StrandKey.Only, "root", null);
        foreach (var (row, folder) in new[] { (0, "a"), (1, "b") })
        {
            pull.Put(new LandedStrand("p", StrandKey.Of("", 0, row), $"{{\"p.id\":\"{folder}\"}}", "{}", ""));
            Append(pull, StrandKey.Of("", 0, row), folder, null);
        }

        await landing.CommitAsync(CancellationToken.None);
        Texts(landing.Read("p", new HashSet<string> { LandedStrand.NoValues })).ShouldBe("a\nb\n");
        Texts(landing.Read("p", new HashSet<string> { "{\"p.id\":\"a\"}" })).ShouldBe("root\nb\n");
    }

    [Fact]
    public async Task Pieces_of_a_stream_count_only_once_it_is_whole()
    {
        await using (var landing = Open())
        {
            var pull = landing.Open("p");
            Append(pull, "a", "whole", next: "stream");
            pull.Append("a", "piece\n"u8, 1, "stream", isPiece: true);
            await landing.CommitAsync(CancellationToken.None);
        }

        await using var again = Open();
        var reopened = again.Open("p");
        reopened.Last("a")!.Page.ShouldBe(0);
        Append(reopened, "a", "other", next: null);
        await again.CommitAsync(CancellationToken.None);
        Read(again).ShouldBe("whole\nother\n");
    }

    [Fact]
    public async Task Pieces_that_are_not_committed_yet_are_dropped_behind_the_last_whole_page()
    {
        await using var landing = Open();
        var pull = landing.Open("p");
        Append(pull, "a", "1", next: "x");
        pull.Append("a", "2\n"u8, 1, "stream", isPiece: true);
        pull.DropPieces("a")!.Page.ShouldBe(0);
        Append(pull, "a", "3", next: null);
        await landing.CommitAsync(CancellationToken.None);
        Read(landing).ShouldBe("1\n3\n");
    }

    [Fact]
    public async Task A_strand_that_is_set_aside_takes_along_what_was_made_from_its_rows_and_nothing_else()
    {
        await using var landing = Open();
        var (parent, child) = (landing.Open("parent"), landing.Open("p"));
        Append(parent, StrandKey.Only, "row", next: null);
        var (one, other) = (StrandKey.Of("", 0, 0), StrandKey.Of(StrandKey.Of("", 1, 5), 0, 0));
        child.Put(new LandedStrand("p", one, "{}", "{}", ""));
        Append(child, one, "a", next: null);
        Append(child, other, "b", next: null);
        Append(landing.Open("unrelated"), one, "c", next: null);
        await landing.SetAsideAsync(parent, StrandKey.Only, ["p"]);
        landing.Read("parent").Count.ShouldBe(0);
        landing.Read("p").Count.ShouldBe(0);
        landing.Strands("p").ShouldBeEmpty();
        landing.Read("unrelated").Count.ShouldBe(1);
        child.Last(one).ShouldBeNull();
    }

    [Fact]
    public async Task A_strand_that_was_passed_over_is_known_again_until_its_skip_is_forgotten()
    {
        await using (var landing = Open())
        {
            var pull = landing.Open("p");
            pull.Put(new LandedStrand("p", "a", "{}", "{}", "") { Skip = new LandedSkip(403, "no licence", "said", "GET x") });
            await landing.CommitAsync(CancellationToken.None);
        }

        await using var again = Open();
        again.Open("p").Strand("a")!.Skip!.Because.ShouldBe("no licence");
        await again.ForgetSkipsAsync(default);
        again.Strands("p").Single().Skip.ShouldBeNull();
    }

    [Fact]
    public void Strands_sort_in_the_order_of_the_rows_that_they_were_made_from()
    {
        string[] keys = [StrandKey.Of("", 0, 9), StrandKey.Of("", 0, 10), StrandKey.Of(StrandKey.Of("", 0, 10), 0, 0), StrandKey.Of("", 2, 0), StrandKey.Of("", 10, 0)];
        keys.ShouldBe(keys.Order(StringComparer.Ordinal));
        keys.Select(StrandKey.Depth).ShouldBe([1, 1, 2, 1, 1]);
        StrandKey.Depth(StrandKey.Only).ShouldBe(0);
    }

    private RunLanding Open() => new(new Core.Files.Disk(), _folder["landing"], _clock);

    private static void Append(PullLanding pull, string strand, string row, string? next) => pull.Append(strand, Encoding.UTF8.GetBytes(row + "\n"), 1, next);

    private static string Read(RunLanding landing) => Texts(landing.Read("p"));

    private static string Texts(LandedRows rows)
    {
        var text = new StringBuilder();
        rows.Read((_, lines) => text.Append(Encoding.UTF8.GetString(lines)), CancellationToken.None);
        return text.ToString();
    }
}
