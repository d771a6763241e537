using System.Net;
using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Runs;
using Cursiva.Core.State;
using Cursiva.Core.Tests.Identity;
using Cursiva.Core.Tests.Pulls;
using Cursiva.Core.Tests.State;
using Npgsql;

namespace Cursiva.Core.Tests.Runs;

public sealed class StrandWorkerTests(SharedServer server) : IAsyncLifetime
{
    private const string Name = "jobs/x/runs/000001/landing";
    private static readonly TimeSpan s_patience = TimeSpan.FromSeconds(20);

    private readonly TemporaryFolder _folder = new();
    private readonly SignInFixture _fixture = new();
    private readonly CancellationTokenSource _over = new();
    private SharedDatabase _shared = null!;
    private IState _state = null!;

    public async ValueTask InitializeAsync()
    {
        _shared = await server.DatabaseAsync("2s");
        _state = await SharedServer.Engine(_shared, TimeProvider.System).OpenAsync(default);
    }

    public async ValueTask DisposeAsync()
    {
        await _over.CancelAsync();
        await _state.DisposeAsync();
        await _fixture.DisposeAsync();
        _folder.Dispose();
        _over.Dispose();
    }

    [Fact]
    public async Task What_a_machine_landed_of_a_strand_before_it_lost_it_is_not_added_when_it_has_the_strand_again()
    {
        var pages = new Pages();
        await OfferAsync();
        var held = await HoldCommitsAsync();
        var work = WorkAsync(pages);

        // The first page waits for its commit, the second one for the first, and the third is being asked for.
        await await Task.WhenAny(work, pages.AskedForAsync(0));
        await Task.Delay(RunLanding.GroupTime * 2);
        pages.Give(1);
        await pages.AskedForAsync(2);
        await _state.Queue.ClearAsync(Name, default);
        await await Task.WhenAny(work, pages.GivenUpAsync(2));

        // The first page is refused: the machine does not have the strand any more. Then it takes it again, and the second page is to be committed.
        held = await LetOneCommitAsync(held);
        await OfferAsync();
        await Task.Delay(TimeSpan.FromMilliseconds(500));
        pages.Give(2);
        await held.DisposeAsync();
        while ((await _state.Queue.FinishedAsync(Name, default)).Count == 0 && !work.IsCompleted)
            await Task.Delay(20).WaitAsync(s_patience);
        (await LandedAsync()).ShouldBe([(0, """{"n":0}"""), (1, """{"n":1}"""), (2, """{"n":2}""")]);
        work.IsCompleted.ShouldBeFalse();
        await _over.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(work);
    }

    private async Task WorkAsync(HttpMessageHandler cloud)
    {
        var services = _fixture.Services(cloud);
        var path = _folder.Write("job.cursiva.yaml", """
            cursiva: 1
            apis: { x: { base: https://x.example, timeout: 60s } }
            pulls:
              depots: { get: /depots, rows: /rows }
              scans: { per: depots, get: '/scans/{depots.id}', rows: /rows, paging: { next-link: /next }, parallel: 1 }
            """);
        var job = JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        var options = new RunOptions(
            StartChoice.Either, new StateFolder(_folder.Path), SharedServer.Engine(_shared, TimeProvider.System), new Disk(), TimeProvider.System, services.Redactor, _ => null, "");
        using var worker = new StrandWorker(
            job,
            options,
            _state,
            Name,
            _folder["fetched-here"],
            (landing, warn) => new PullServices(
                job, landing, clients.OfAsync, new NoPast(), services.Secrets, services.Redactor, services.Disk, _folder["odd"], _folder["out"], services.Backoff,
                Budget.Unlimited, services.Clock, _fixture.Watch, new SilentPulls(), warn, (_, _) => Task.CompletedTask),
            () => 0);
        await worker.WorkAsync(_over.Token);
    }

    private Task OfferAsync() => _state.Queue.OfferAsync(
        Name, [(new StoredStrand("scans", "a", """{"depots.id":"a"}""", "{}", "", null, null, null, null), false)], default);

    // Whoever commits pages enters a group of changes first.
    private async Task<NpgsqlTransaction> HoldCommitsAsync()
    {
        var connection = new NpgsqlConnection(
            $"Host={_shared.Host};Port={_shared.Port};Username=exporter;Password={PostgresServer.Password};Database={_shared.Database};Pooling=false");
        await connection.OpenAsync();
        var transaction = await connection.BeginTransactionAsync();
        await using var command = new NpgsqlCommand("lock table cursiva.groups in exclusive mode", connection);
        await command.ExecuteNonQueryAsync();
        return transaction;
    }

    // Behind the commit that waits, and before any other one.
    private async Task<NpgsqlTransaction> LetOneCommitAsync(NpgsqlTransaction held)
    {
        var next = HoldCommitsAsync();
        await Task.Delay(TimeSpan.FromMilliseconds(200));
        await held.DisposeAsync();
        return await next.WaitAsync(s_patience);
    }

    private async Task<List<(int Page, string Lines)>> LandedAsync()
    {
        var pages = new List<(int, string)>();
        await foreach (var page in _state.Landings.PagesAsync(Name, ("scans", ["a"]), default))
            pages.Add((page.Page, Encoding.UTF8.GetString(page.Lines().Span).Trim()));
        return pages;
    }

    /// <summary>Three pages of a listing; the first one comes at once, the others when they are given.</summary>
    private sealed class Pages : HttpMessageHandler
    {
        private readonly TaskCompletionSource[] _given = [.. Enumerable.Range(0, 3).Select(_ => new TaskCompletionSource())];
        private readonly TaskCompletionSource[] _asked = [.. Enumerable.Range(0, 3).Select(_ => new TaskCompletionSource())];
        private readonly TaskCompletionSource[] _givenUp = [.. Enumerable.Range(0, 3).Select(_ => new TaskCompletionSource())];

        public Pages() => Give(0);

        public void Give(int page) => _given[page].TrySetResult();

        public Task AskedForAsync(int page) => _asked[page].Task.WaitAsync(s_patience);

        public Task GivenUpAsync(int page) => _givenUp[page].Task.WaitAsync(s_patience);

        protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
        {
            var page = request.RequestUri!.Query is { Length: > 1 } query ? int.Parse(query.Split('=')[1]) : 0;
            _asked[page].TrySetResult();
            try
            {
                await _given[page].Task.WaitAsync(cancellationToken);
            }
            catch (OperationCanceledException)
            {
                _givenUp[page].TrySetResult();
                throw;
            }

            var next = page < 2 ? $",\"next\":\"https://x.example/scans/a?page={page + 1}\"" : "";
            return new HttpResponseMessage(HttpStatusCode.OK)
            {
                Content = new StringContent($$"""{"rows":[{"n":{{page}}}]{{next}}}""", Encoding.UTF8, "application/json"),
            };
        }
    }
}
