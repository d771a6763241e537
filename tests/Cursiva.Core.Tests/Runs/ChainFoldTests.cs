using System.Globalization;
using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tables;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Runs;

/// <summary>Landings of many incremental runs become one, and nobody can tell.</summary>
public sealed class ChainFoldTests : IDisposable
{
    private static readonly DateTimeOffset s_now = new(2026, 11, 25, 2, 0, 0, TimeSpan.Zero);
    private readonly TemporaryFolder _temporary = new();
    private readonly RunOptions _options;
    private readonly Job _job;
    private readonly JobFolder _folder;

    public ChainFoldTests()
    {
        _temporary.Write("job.cursiva.yaml", "cursiva: 1\nretain: 2\napis: { x: { base: https://x.example } }\npulls: { p: { per: { list: [a, b], name: d }, get: '/{d}', rows: '', key: /id, deleted-when: { at: /gone, is: true }, query: { since: '{mark}' }, incremental: { by: /at } } }\n");
        _job = JobReader.Read(_temporary["job.cursiva.yaml"], new GivenInputs([], [], _ => null), s_now);
        var state = StateFolder.Find(_temporary["state"], _ => null);
        _folder = new JobFolder(state, _job);
        _options = new RunOptions(StartChoice.Either, state, new SqliteEngine(state, new Disk(), TimeProvider.System), new Disk(), new FakeTimeProvider(s_now), new Redactor(), _ => null, "a test");
    }

    private Pull Pull => _job.Pulls[0];

    public void Dispose() => _temporary.Dispose();

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    [InlineData(5)]
    [InlineData(6)]
    [InlineData(7)]
    [InlineData(8)]
    public async Task The_table_of_a_fold_is_that_of_its_runs_with_the_same_columns_in_the_same_order(int seed)
    {
        var random = new Random(seed);
        var runs = new List<RunRecord>();
        for (var number = 1; number <= 14; number++)
        {
            var run = await RunAsync(number, [.. Enumerable.Range(0, random.Next(0, 20)).Select(_ => Row(random))], random);
            runs.Add(random.Next(4) == 0 ? run.WithAnew("p", Values(random.Next(2))) : run);
        }

        var (columns, rows) = Table(runs);

        runs = await FoldedAsync(runs);
        runs.Single(run => run.Folded.Length > 0).Number.ShouldBe(12);
        for (var number = 1; number < 12; number++)
            Directory.Delete(_folder.Of(number), recursive: true);
        Directory.Delete(_folder.LandingOf(12), recursive: true);

        var (columnsNow, rowsNow) = Table(runs);
        columnsNow.ShouldBe(columns);
        rowsNow.ShouldBe(rows);
    }

    [Fact]
    public async Task Rows_that_newer_ones_replace_do_not_stay()
    {
        var runs = new List<RunRecord>();
        for (var number = 1; number <= 60; number++)
        {
            runs.Add(await RunAsync(number, [.. Enumerable.Range(0, 10).Select(id => $$"""{"id":{{id}},"at":"t{{number}}"}""")]));
            runs = await FoldedAsync(runs);
        }

        RunHistory.Chain(Pull, runs).Count().ShouldBeLessThan(ChainFold.Worth + 4);
        await using var landing = new RunLanding(_options.Disk, _folder.FoldOf(runs.Last(run => run.Folded.Length > 0).Number, "p"), _options.Clock);
        landing.Read("p").Count.ShouldBeLessThan(25, "ten keys, and the few rows that showed a column first");
        Table(runs).Rows.Count.ShouldBe(10);
    }

    [Fact]
    public async Task A_fold_that_was_cut_short_does_not_count_and_is_made_anew()
    {
        var runs = new List<RunRecord>();
        for (var number = 1; number <= 12; number++)
            runs.Add(await RunAsync(number, [$$"""{"id":{{number}},"at":"t"}"""]));
        var table = Table(runs);
        await using (var cut = new RunLanding(_options.Disk, _folder.FoldOf(10, "p"), _options.Clock))
        {
            using var pull = cut.Open("p");
            pull.Append(StrandKey.Of("", 0, 0), "{\"id\":99,\"at\":\"t\"}\n"u8, 1, null);
            await cut.CommitAsync(CancellationToken.None);
        }

        Table(runs).Rows.ShouldBe(table.Rows);
        Table(await FoldedAsync(runs)).Rows.ShouldBe(table.Rows);
    }

    [Fact]
    public async Task A_landing_that_somebody_removed_is_no_run_without_rows()
    {
        List<RunRecord> runs = [await RunAsync(1, ["""{"id":1,"at":"t"}"""]), await RunAsync(2, ["""{"id":2,"at":"t"}"""])];
        Directory.Delete(_folder.LandingOf(1), recursive: true);
        var refusal = Should.Throw<RefusedException>(() => History(runs).Earlier(Pull)).Refusal;
        refusal.What.ShouldContain("the rows of run 1 are gone");
        refusal.NextStep.ShouldNotBeNull().ShouldContain("--full");
    }

    [Fact]
    public async Task Keys_beyond_what_memory_holds_are_looked_at_in_several_walks()
    {
        List<RunRecord> runs = [await RunAsync(1, [.. Enumerable.Range(0, 200).Select(id => $$"""{"id":{{id % 50}},"at":"t"}""")])];
        await using var chain = History(runs).Earlier(Pull);
        var replaced = ReplacedRows.Find(Pull, chain.ReadStrands("p"), CancellationToken.None, most: 7);
        Enumerable.Range(0, 200).Where(row => !replaced[row]).ShouldBe([0, 10, .. Enumerable.Range(150, 50)], "the first of one digit, the first of two, and the newest of each");
    }

    // Any kind of value, columns that come and go, and rows that say that they are gone.
    private static string Row(Random random)
    {
        var row = new StringBuilder($$"""{"id":{{random.Next(12)}},"at":"2026-11-{{random.Next(10, 28)}}" """.TrimEnd());
        if (random.Next(3) == 0)
            row.Append(CultureInfo.InvariantCulture, $",\"amount\":{random.Next(3) switch { 0 => "4", 1 => "12.50", _ => random.Next(20) == 0 ? "\"none\"" : "7.5" }}");
        if (random.Next(8) == 0)
            row.Append(CultureInfo.InvariantCulture, $",\"extra_{random.Next(3)}\":{{\"deep\":{(random.Next(2) == 0 ? "true" : "[1,2]")}}}");
        if (random.Next(10) == 0)
            row.Append(",\"gone\":true");
        return row.Append('}').ToString();
    }

    private static string Values(int strand) => $$"""{"d":"{{"ab"[strand]}}"}""";

    private async Task<RunRecord> RunAsync(int number, string[] rows, Random? random = null)
    {
        await using var landing = new RunLanding(_options.Disk, _folder.LandingOf(number), _options.Clock);
        using var pull = landing.Open("p");
        string[] strands = [StrandKey.Of("", 0, 0), StrandKey.Of("", 0, 1)];
        for (var strand = 0; strand < 2; strand++)
            pull.Put(new LandedStrand("p", strands[strand], Values(strand), "{}", ""));
        foreach (var page in rows.Chunk(4))
            pull.Append(strands[random?.Next(2) ?? 0], Encoding.UTF8.GetBytes(string.Concat(page.Select(row => row + "\n"))), page.Length, "on");
        foreach (var strand in strands)
            pull.Append(strand, [], 0, null);
        await landing.CommitAsync(CancellationToken.None);
        return new RunRecord(number, s_now.AddHours(number), "f", RunLanding.Format) { Phase = RunPhase.Done, Marks = new() { ["p"] = [] } };
    }

    private async Task<List<RunRecord>> FoldedAsync(List<RunRecord> runs)
    {
        var folded = await new ChainFold(_job, runs, _folder, _options).FoldAsync(CancellationToken.None);
        return [.. runs.Select(run => folded.FirstOrDefault(other => other.Number == run.Number) ?? run)];
    }

    private RunHistory History(IReadOnlyList<RunRecord> runs) => new(runs, () => new RunRecord(runs.Count + 1, s_now, "f", RunLanding.Format), _folder, _options);

    private (IReadOnlyList<KnownColumn> Columns, List<string> Rows) Table(IReadOnlyList<RunRecord> runs)
    {
        using var database = new Database(_temporary["spill"], 256 << 20);
        var chain = History(runs).Earlier(Pull);
        var columns = new PullTable(database).Stage(Pull, chain.Read("p"), [], CancellationToken.None);
        chain.DisposeAsync().AsTask().GetAwaiter().GetResult();
        return (columns, [.. database.All($"select ({string.Join(", ", columns.Select(column => Database.Quoted(column.Name)))})::varchar from p").Select(row => row[0]!)]);
    }
}
