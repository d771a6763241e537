using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Landing;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

public sealed class SharedLandingTests(SharedServer server) : IAsyncLifetime
{
    private const string Name = "jobs/x/runs/000001/landing";

    private readonly TemporaryFolder _folder = new();
    private SharedDatabase _shared = null!;
    private IState _state = null!;

    public async ValueTask InitializeAsync()
    {
        _shared = await server.DatabaseAsync("2s");
        _state = await SharedServer.Engine(_shared, TimeProvider.System).OpenAsync(default);
    }

    public async ValueTask DisposeAsync()
    {
        await _state.DisposeAsync();
        _folder.Dispose();
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    public async Task A_landing_that_another_machine_brings_is_the_same_whatever_was_dropped_skipped_or_cut_short(int seed)
    {
        var random = new Random(seed);
        await using (var landing = Open("here"))
        {
            PullLanding[] pulls = [landing.Open("p"), landing.Open("q")];
            for (var step = 0; step < 200; step++)
                await StepAsync(landing, pulls, random);
            await landing.CommitAsync(default);
        }

        await BringAsync("there");
        Told("there").ShouldBe(Told("here"));

        // What is there already is not fetched again; what differs is.
        var untouched = File.GetLastWriteTimeUtc(_folder["there/pages.db"]);
        await BringAsync("there");
        File.GetLastWriteTimeUtc(_folder["there/pages.db"]).ShouldBe(untouched);
        await using (var ahead = new RunLanding(new Disk(), _folder["there"], TimeProvider.System))
        {
            ahead.Open("p").Append("only-there", "{}\n"u8, 1, null);
            await ahead.CommitAsync(default);
        }

        await BringAsync("there");
        Told("there").ShouldBe(Told("here"));
    }

    [Fact]
    public async Task What_was_dropped_forgotten_or_removed_is_so_on_every_machine()
    {
        await using (var landing = Open("here"))
        {
            var (p, q) = (landing.Open("p"), landing.Open("q"));
            p.Append("", "{\"a\":1}\n"u8, 1, null);
            q.Put(new LandedStrand("q", "s", "{}", "{}", "") { Skip = new LandedSkip(403, "no licence", "said", "GET /") });
            q.Append("t", "{\"b\":1}\n"u8, 1, null);
            await landing.CommitAsync(default);
            await landing.ForgetSkipsAsync(default);
            await landing.KeepOnlyAsync(new HashSet<string> { "q" }, default);
        }

        await BringAsync("there");
        Told("there").ShouldBe(Told("here"));
        await _state.Landings.RemoveAsync([Name], default);
        await BringAsync("there");
        Directory.Exists(_folder["there"]).ShouldBeFalse();
    }

    [Fact]
    public async Task A_machine_that_was_asleep_adds_nothing_to_what_another_one_took_over()
    {
        var clock = new Microsoft.Extensions.Time.Testing.FakeTimeProvider();
        await using var sleeper = await SharedServer.Engine(_shared, clock).OpenAsync(default);
        var lease = (await sleeper.Leases.TryTakeAsync("job/x", "the sleeper", null, default)).Lease!;
        await using var landing = new RunLanding(new Disk(), _folder["asleep"], clock, shared: new SharedLanding(sleeper.Under(lease).Landings, Name));
        var pull = landing.Open("p");
        pull.Append("", "{\"page\":1}\n"u8, 1, "more");
        await landing.CommitAsync(default);

        await using var next = await _state.Leases.TakeAsync("job/x", "the next one", null, TimeProvider.System, default);
        await BringAsync("taken-over");
        pull.Append("", "{\"page\":2}\n"u8, 1, "more");
        await Should.ThrowAsync<LeaseLostException>(landing.CommitAsync(default));
        await using (var over = new RunLanding(new Disk(), _folder["taken-over"], TimeProvider.System, shared: new SharedLanding(_state.Under(next).Landings, Name)))
        {
            over.Open("p").Append("", "{\"page\":\"two\"}\n"u8, 1, null);
            await over.CommitAsync(default);
        }

        Should.Throw<LeaseLostException>(() => pull.Append("", "{\"page\":3}\n"u8, 1, null));
        await BringAsync("there");
        Rows("there", "p").ShouldBe("{\"page\":1}\n{\"page\":\"two\"}\n");
        clock.Advance(TimeSpan.FromSeconds(5));
    }

    [Fact]
    public async Task Files_that_other_machines_need_are_brought_whole_and_removed()
    {
        var (here, there) = (_folder["m1"], _folder["m2"]);
        var large = new byte[2_500_000];
        Random.Shared.NextBytes(large);
        Directory.CreateDirectory(Path.Combine(here, "jobs/x/outbox/mail-1"));
        await File.WriteAllBytesAsync(Path.Combine(here, "jobs/x/outbox/mail-1/0000"), large);
        await File.WriteAllBytesAsync(Path.Combine(here, "jobs/x/outbox/mail-1/0001"), []);
        await using var one = await SharedServer.Engine(_shared with { Folder = here }, TimeProvider.System).OpenAsync(default);
        await using var other = await SharedServer.Engine(_shared with { Folder = there }, TimeProvider.System).OpenAsync(default);
        await one.Files.PutAsync(Path.Combine(here, "jobs/x/outbox/mail-1"), default);
        await one.Files.PutAsync(Path.Combine(here, "jobs/x/outbox/mail-1"), default);
        await other.Files.BringAsync(Path.Combine(there, "jobs/x/outbox/mail-1"), default);
        (await File.ReadAllBytesAsync(Path.Combine(there, "jobs/x/outbox/mail-1/0000"))).ShouldBe(large);
        new FileInfo(Path.Combine(there, "jobs/x/outbox/mail-1/0001")).Length.ShouldBe(0);
        await other.Files.RemoveAsync(Path.Combine(there, "jobs/x/outbox/mail-1"), default);
        Directory.Delete(there, recursive: true);
        await other.Files.BringAsync(Path.Combine(there, "jobs/x/outbox/mail-1"), default);
        Directory.Exists(there).ShouldBeFalse();
    }

    private RunLanding Open(string folder) =>
        new(new Disk(), _folder[folder], TimeProvider.System, segmentSize: 2000, shared: new SharedLanding(_state.Landings, Name));

    private Task BringAsync(string folder) => new SharedLanding(_state.Landings, Name).BringAsync(new Disk(), _folder[folder], TimeProvider.System, default);

    private static async Task StepAsync(RunLanding landing, PullLanding[] pulls, Random random)
    {
        var pull = pulls[random.Next(2)];
        var strand = random.Next(4) == 0 ? "" : StrandKey.Of("", 0, random.Next(6));
        switch (random.Next(12))
        {
            case 0:
                pull.Put(new LandedStrand(pull.Name, strand + "x", $$"""{"id":"{{random.Next(9)}}"}""", """{"depot":"Ø"}""", "")
                {
                    Skip = random.Next(2) == 0 ? null : new LandedSkip(403, "no licence", "it said: \"no\"", "GET /x"),
                });
                break;
            case 1 when pull.Last(strand) is not null:
                await landing.SetAsideAsync(pull, strand, ["q"]);
                (pulls[0], pulls[1]) = (landing.Open("p"), landing.Open("q"));
                break;
            case 2:
                pull.Last(strand);
                break;
            case 3:
                await landing.CommitAsync(default);
                break;
            default:
                var rows = random.Next(0, 4);
                var lines = string.Concat(Enumerable.Range(0, rows).Select(_ => $$"""{"n":{{random.Next(1000)}},"t":"{{new string('ü', random.Next(40))}}"}""" + "\n"));
                var ends = random.Next(5) == 0;
                pull.Append(
                    strand,
                    Encoding.UTF8.GetBytes(lines),
                    rows,
                    ends ? null : $"cursor {random.Next()}",
                    isPiece: !ends && random.Next(3) == 0,
                    mark: random.Next(3) == 0 ? $"2026-03-0{random.Next(1, 9)}" : null,
                    ended: ends ? "empty" : null,
                    told: random.Next(3) == 0 ? random.Next(100) : null,
                    etag: random.Next(5) == 0 ? "\"e\"" : null);
                break;
        }
    }

    private string Rows(string folder, string pull)
    {
        using var index = new PageIndex(new Disk(), _folder[$"{folder}/pages.db"]);
        var text = new StringBuilder();
        new LandedRows(new Disk(), _folder[$"{folder}/{pull}"], pull, index.PlacesOf(pull, withEmpty: false), () => new Dictionary<string, byte[]>())
            .Read((_, lines) => text.Append(Encoding.UTF8.GetString(lines)), default);
        return text.ToString();
    }

    private string Told(string folder)
    {
        using var index = new PageIndex(new Disk(), _folder[$"{folder}/pages.db"]);
        return string.Join('\n', new[] { "p", "q" }.SelectMany(pull => new[] { Rows(folder, pull) }
            .Concat(index.PagesOf(pull).Select(page => $"{page with { Segment = 0, Offset = 0 }}"))
            .Concat(index.Strands.Of(pull, onlySkipped: false).Select(strand => $"{strand}"))));
    }
}
