using Cursiva.Core.Jobs;
using Cursiva.Core.Runs;
using Cursiva.Core.State;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Runs;

/// <summary>How far back a new run looks: to the newest runs, and to all of them where these do not say what it has to know.</summary>
public sealed class NewestRunsTests : IDisposable
{
    private const int Runs = 150;

    private static readonly DateTimeOffset s_now = new(2026, 3, 9, 0, 0, 0, TimeSpan.Zero);

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("folded lately", "3", 100)]
    [InlineData("folded long ago", "3", Runs)]
    [InlineData("never folded", "3", Runs)]
    [InlineData("without columns lately", "3", Runs)]
    [InlineData("folded lately", "120", Runs)]
    [InlineData("folded lately", "2d", 100)]
    [InlineData("folded lately", "30d", Runs)]
    public async Task Nothing_that_a_run_needs_is_left_out(string history, string retain, int read)
    {
        var job = JobReader.Read(
            _folder.Write("fleet.cursiva.yaml", $"cursiva: 1\nretain: {retain}\napis: {{ x: {{ base: https://x.example }} }}\npulls: {{ p: {{ get: /p, rows: /items, paging: {{ next-link: /next, changes: /changes }}, key: /id }} }}\n"),
            new GivenInputs([], [], _ => null),
            s_now);
        var state = new StateFolder(_folder["state"]);
        Directory.CreateDirectory(state.Root);
        await using var database = SqliteState.Open(state.Database, TimeProvider.System);
        var store = new RunStore(database, new JobFolder(state, job));
        for (var number = 1; number <= Runs; number++)
        {
            var folded = history switch { "folded lately" or "without columns lately" => number == 120, "folded long ago" => number == 20, _ => false };
            await store.WriteAsync(
                new RunRecord(number, s_now.AddHours(number - Runs), "", 1)
                {
                    Phase = RunPhase.Done,
                    Folded = folded ? ["p"] : [],
                    Columns = history == "without columns lately" && number > 10 ? [] : new() { ["p"] = [new KnownColumn("id", "BIGINT")] },
                },
                default);
        }

        var runs = await JobRuns.OpenNewestAsync(job, state, database, s_now, default);
        runs.Records.Count.ShouldBe(read);
        runs.Records[^1].Number.ShouldBe(Runs);
    }
}
