using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

public sealed class PostgresQueueTests(SharedServer server) : StrandQueueContract
{
    private SharedDatabase? _shared;

    protected override async Task<IState> OpenAsync() => await SharedServer.Engine(_shared ??= await server.DatabaseAsync("5s"), TimeProvider.System).OpenAsync(default);

    // The database's clock is nobody's to set.
    protected override Task PassAsync(double leases) => Task.Delay(State.Queue.Lease * leases);

    [Fact]
    public async Task Only_the_holder_of_the_jobs_lease_offers_accepts_and_withdraws()
    {
        var lease = (await State.Leases.TryTakeAsync("job/x", "leader", null, default)).Lease!;
        var leader = State.Under(lease).Queue;
        await leader.OfferAsync(Name, [(Strand("a"), true)], default);
        (await TakeAsync(One, 1)).Single().IsAnew.ShouldBeTrue();
        await lease.DisposeAsync();
        await using var next = (await State.Leases.TryTakeAsync("job/x", "the next one", null, default)).Lease!;
        await Should.ThrowAsync<LeaseLostException>(leader.OfferAsync(Name, [(Strand("b"), false)], default));
        await Should.ThrowAsync<LeaseLostException>(leader.AcceptAsync(Name, [new FinishedStrand("p", "a", 1, "{}")], default));
        await Should.ThrowAsync<LeaseLostException>(leader.WithdrawAsync(Name, "p", "a", "b", default));
        await Should.ThrowAsync<LeaseLostException>(leader.ClearAsync(Name, default));
        await State.Under(next).Queue.OfferAsync(Name, [(Strand("b"), false)], default);
        (await TakeAsync(One, 9)).Single().Strand.Strand.ShouldBe("b");
    }
}
