using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

public sealed class StrandQueueTests(SharedServer server) : IAsyncLifetime
{
    private const string Name = "jobs/x/runs/000001/landing";

    private readonly Guid _one = Guid.NewGuid();
    private readonly Guid _other = Guid.NewGuid();
    private IState _state = null!;

    public async ValueTask InitializeAsync() => _state = await SharedServer.Engine(await server.DatabaseAsync("5s"), TimeProvider.System).OpenAsync(default);

    public ValueTask DisposeAsync() => _state.DisposeAsync();

    [Fact]
    public async Task Each_strand_is_taken_by_one_machine_in_the_order_of_keys_and_its_result_is_told_once()
    {
        await OfferAsync("a", "b", "c", "d", "e");
        await OfferAsync("a", "b");
        var (one, other) = (await TakeAsync(_one, 2), await TakeAsync(_other, 9));
        one.Select(taken => taken.Strand.Strand).ShouldBe(["a", "b"]);
        other.Select(taken => taken.Strand.Strand).ShouldBe(["c", "d", "e"]);
        one[0].Strand.Values.ShouldBe("""{"id":"a"}""");
        (one[0].IsAnew, one[0].HasPages).ShouldBe((false, false));
        (await TakeAsync(_one, 9)).ShouldBeEmpty();
        await _state.Queue.FinishAsync(Name, [.. one.Select(Finished), Finished(other[1])], default);
        var finished = await _state.Queue.FinishedAsync(Name, default);
        finished.Select(strand => strand.Strand).Order().ShouldBe(["a", "b", "d"]);
        await _state.Queue.AcceptAsync(Name, finished, default);
        (await _state.Queue.FinishedAsync(Name, default)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Whoever_is_not_heard_of_loses_its_strands_and_adds_nothing_to_them_any_more()
    {
        await OfferAsync("a", "b");
        var lost = await TakeAsync(_one, 2);
        (await AddAsync(lost[0], 0)).ShouldBeEmpty();
        (await TakeAsync(_other, 9)).ShouldBeEmpty();
        await Task.Delay(2500);
        (await _state.Queue.RenewAsync(Name, [KeyValuePair.Create(("p", "b"), lost[1].Fence)], default)).ShouldBe([("p", "b")]);
        await Task.Delay(3500);
        var taken = (await TakeAsync(_other, 9)).Single();
        (taken.Strand.Strand, taken.HasPages).ShouldBe(("a", true));
        taken.Fence.ShouldBeGreaterThan(lost[1].Fence);
        (await AddAsync(lost[0], 1)).ShouldBe([("p", "a")]);
        (await AddAsync(taken, 1)).ShouldBeEmpty();
        await _state.Queue.FinishAsync(Name, [Finished(lost[0])], default);
        (await _state.Queue.FinishedAsync(Name, default)).ShouldBeEmpty();
        (await PagesAsync("a")).ShouldBe([0, 1]);
    }

    [Fact]
    public async Task A_strand_that_was_withdrawn_and_offered_again_is_another_turn()
    {
        await OfferAsync("a");
        var before = (await TakeAsync(_one, 1)).Single();
        await _state.Queue.WithdrawAsync(Name, "p", "a", "b", default);
        await OfferAsync("a");
        (await AddAsync(before, 0)).ShouldBe([("p", "a")]);
        var now = (await TakeAsync(_one, 1)).Single();
        now.Fence.ShouldBeGreaterThan(before.Fence);
        (await AddAsync(before, 0)).ShouldBe([("p", "a")]);
        await _state.Queue.GiveBackAsync(_one, default);
        (await AddAsync(now, 0)).ShouldBe([("p", "a")]);
        (await TakeAsync(_other, 1)).Single().Fence.ShouldBeGreaterThan(now.Fence);
        await _state.Queue.ClearAsync(Name, default);
        (await TakeAsync(_other, 1)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Only_the_holder_of_the_jobs_lease_offers_accepts_and_withdraws()
    {
        var lease = (await _state.Leases.TryTakeAsync("job/x", "leader", null, default)).Lease!;
        var leader = _state.Under(lease).Queue;
        await leader.OfferAsync(Name, [(Strand("a"), true)], default);
        (await TakeAsync(_one, 1)).Single().IsAnew.ShouldBeTrue();
        await lease.DisposeAsync();
        await using var next = (await _state.Leases.TryTakeAsync("job/x", "the next one", null, default)).Lease!;
        await Should.ThrowAsync<LeaseLostException>(leader.OfferAsync(Name, [(Strand("b"), false)], default));
        await Should.ThrowAsync<LeaseLostException>(leader.AcceptAsync(Name, [new FinishedStrand("p", "a", 1, "{}")], default));
        await Should.ThrowAsync<LeaseLostException>(leader.WithdrawAsync(Name, "p", "a", "b", default));
        await Should.ThrowAsync<LeaseLostException>(leader.ClearAsync(Name, default));
        await _state.Under(next).Queue.OfferAsync(Name, [(Strand("b"), false)], default);
        (await TakeAsync(_one, 9)).Single().Strand.Strand.ShouldBe("b");
    }

    [Fact]
    public async Task A_state_of_one_machine_has_no_strands_to_share()
    {
        using var folder = new TemporaryFolder();
        await using var state = SqliteState.Open(folder["state.db"], TimeProvider.System);
        Should.Throw<RefusedException>(() => state.Queue).Refusal.Outcome.ShouldBe(Outcome.WrongCommandLine);
    }

    private static StoredStrand Strand(string key) => new("p", key, $$"""{"id":"{{key}}"}""", "{}", "", null, null, null, null);

    private static FinishedStrand Finished(TakenStrand taken) => new(taken.Strand.Pull, taken.Strand.Strand, taken.Fence, "{}");

    private Task OfferAsync(params string[] keys) => _state.Queue.OfferAsync(Name, [.. keys.Select(key => (Strand(key), false))], default);

    private Task<IReadOnlyList<TakenStrand>> TakeAsync(Guid holder, int most) => _state.Queue.TakeAsync(Name, "p", most, holder, default);

    private Task<IReadOnlyList<(string Pull, string Strand)>> AddAsync(TakenStrand taken, int page) => _state.Queue.AddAsync(
        Name,
        [new StoredPage("p", taken.Strand.Strand, page, 1, 3, 7, "next", false, null, null, null, null, () => "{}\n"u8.ToArray())],
        new Dictionary<(string, string), long> { [("p", taken.Strand.Strand)] = taken.Fence },
        default);

    private async Task<List<int>> PagesAsync(string strand)
    {
        var pages = new List<int>();
        await foreach (var page in _state.Landings.PagesAsync(Name, ("p", [strand]), default))
            pages.Add(page.Page);
        return pages;
    }
}
