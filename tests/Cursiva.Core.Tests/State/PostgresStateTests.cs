using Cursiva.Core.State;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.State;

public sealed class PostgresStateTests(SharedServer server) : StateContract
{
    private SharedDatabase? _shared;

    protected override async Task<IStateEngine> EngineAsync() => SharedServer.Engine(_shared ??= await server.DatabaseAsync(), TimeProvider.System);

    [Fact]
    public async Task A_machine_that_was_asleep_for_longer_than_its_lease_writes_nothing_under_it_any_more()
    {
        _shared = await server.DatabaseAsync("2s");
        var asleep = new FakeTimeProvider();
        var sleeper = await SharedServer.Engine(_shared, asleep).OpenAsync(default);
        var lease = (await sleeper.Leases.TryTakeAsync("job/x", "the sleeper", null, default)).Lease!;
        var mine = sleeper.Under(lease);
        await mine.WriteAsync("run", "1", [1], default);

        // Its timers stand still, as those of a stopped process do; the database's clock does not.
        var other = await OpenAsync();
        await using var next = await other.Leases.TakeAsync("job/x", "the next one", null, TimeProvider.System, default).WaitAsync(TimeSpan.FromSeconds(10));
        next.Fence.ShouldBe(lease.Fence + 1);
        await Should.ThrowAsync<LeaseLostException>(mine.WriteAsync("run", "1", [2], default));
        await Should.ThrowAsync<LeaseLostException>(mine.WriteAllAsync("run", [KeyValuePair.Create<string, byte[]>("2", [2])], default));
        await Should.ThrowAsync<LeaseLostException>(mine.DeleteAsync("run", "1", default));
        (await other.ListAsync("run", "", default)).ShouldBe([[1]]);

        asleep.Advance(TimeSpan.FromSeconds(2));
        Should.Throw<LeaseLostException>(lease.Require);
        await Task.Run(async () => { while (!lease.Lost.IsCancellationRequested) await Task.Delay(10); }).WaitAsync(TimeSpan.FromSeconds(10));
        await lease.DisposeAsync();
        next.Require();
        (await other.Leases.TryTakeAsync("job/x", "a third one", null, default)).HeldBy.ShouldBe("the next one");
        await sleeper.DisposeAsync();
    }

    [Fact]
    public async Task A_lease_is_renewed_for_as_long_as_its_holder_lives_and_free_soon_after_it_died()
    {
        _shared = await server.DatabaseAsync("2s");
        var (one, other) = (await OpenAsync(), await OpenAsync());
        await using (var lease = (await one.Leases.TryTakeAsync("job/x", "me", null, default)).Lease!)
        {
            await Task.Delay(TimeSpan.FromSeconds(3));
            (await other.Leases.TryTakeAsync("job/x", "other", null, default)).HeldBy.ShouldBe("me");
            lease.Require();
        }

        // One that has to last longer does.
        var stopped = await SharedServer.Engine(_shared, new FakeTimeProvider()).OpenAsync(default);
        await stopped.Leases.TryTakeAsync("refresh", "dies", TimeSpan.FromSeconds(4), default);
        await Task.Delay(TimeSpan.FromSeconds(2.5));
        (await other.Leases.TryTakeAsync("refresh", "other", null, default)).HeldBy.ShouldBe("dies");
        await Task.Delay(TimeSpan.FromSeconds(2));
        await using var free = (await other.Leases.TryTakeAsync("refresh", "other", null, default)).Lease!;
        free.Fence.ShouldBe(2);
    }

    [Fact]
    public async Task The_clock_is_the_databases_whatever_the_machines_clock_says()
    {
        _shared = await server.DatabaseAsync();
        await using var ahead = await SharedServer.Engine(_shared, new SteadyClock(TimeProvider.System, DateTimeOffset.UtcNow.AddHours(1))).OpenAsync(default);
        var state = await OpenAsync();
        (ahead.Clock.GetUtcNow() - state.Clock.GetUtcNow()).Duration().ShouldBeLessThan(TimeSpan.FromSeconds(2));
        (state.Clock.GetUtcNow() - DateTimeOffset.UtcNow).Duration().ShouldBeLessThan(TimeSpan.FromSeconds(2));
    }

    [Fact]
    public async Task Schemas_made_in_several_databases_at_once_share_the_role_of_their_server()
    {
        var databases = new List<SharedDatabase>();
        for (var i = 0; i < 6; i++)
            databases.Add(await server.DatabaseAsync());
        for (var turn = 0; turn < 5; turn++)
            await Task.WhenAll(databases.Select(one => SharedServer.Engine(one, TimeProvider.System).InitAsync($"jobs of turn {turn}", CancellationToken.None)));
    }

    [Fact]
    public async Task Pages_that_are_being_read_when_the_connection_breaks_all_come_once()
    {
        _shared = await server.DatabaseAsync();
        var state = await OpenAsync();
        var lines = new byte[400_000];
        Random.Shared.NextBytes(lines);
        await state.Landings.AddAsync(
            "jobs/x", [.. Enumerable.Range(0, 40).Select(page => new StoredPage("p", $"s{page / 8}", page % 8, 1, lines.Length, 7, "n", false, null, null, null, null, () => lines))], default);
        var seen = new List<string>();
        await foreach (var page in state.Landings.PagesAsync("jobs/x", null, default))
        {
            page.Lines().Length.ShouldBe(lines.Length);
            seen.Add($"{page.Strand} {page.Page}");
            if (seen.Count is 3 or 20)
                await server.CutAsync(_shared);
        }

        seen.ShouldBe([.. Enumerable.Range(0, 40).Select(page => $"s{page / 8} {page % 8}")]);
    }
}
