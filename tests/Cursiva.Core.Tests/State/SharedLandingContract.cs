using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Landing;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

/// <summary>A landing that others see is the same for everybody, on every engine.</summary>
public abstract class SharedLandingContract : IAsyncLifetime
{
    protected const string Name = "jobs/x/runs/000001/landing";

    private protected readonly TemporaryFolder _folder = new();

    /// <summary>The state, as those see it who work on a run together.</summary>
    protected IState State { get; private set; } = null!;

    protected abstract Task<IState> OpenAsync();

    public async ValueTask InitializeAsync() => State = await OpenAsync();

    public async ValueTask DisposeAsync()
    {
        await State.DisposeAsync();
        _folder.Dispose();
        GC.SuppressFinalize(this);
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
        await State.Landings.RemoveAsync([Name], default);
        await BringAsync("there");
        Directory.Exists(_folder["there"]).ShouldBeFalse();
    }

    private RunLanding Open(string folder) =>
        new(new Disk(), _folder[folder], TimeProvider.System, segmentSize: 2000, shared: new SharedLanding(State.Landings, Name));

    protected Task BringAsync(string folder) => new SharedLanding(State.Landings, Name).BringAsync(new Disk(), _folder[folder], TimeProvider.System, default);

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

    protected string Rows(string folder, string pull)
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
