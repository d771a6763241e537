using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

/// <summary>What the strands of a run are handed out by has to do alike on every engine.</summary>
public abstract class StrandQueueContract : IAsyncLifetime
{
    protected const string Name = "jobs/x/runs/000001/landing";

    protected Guid One { get; } = Guid.NewGuid();
    private readonly Guid _other = Guid.NewGuid();

    /// <summary>The state, as those see it who work on a run together.</summary>
    protected IState State { get; private set; } = null!;

    protected abstract Task<IState> OpenAsync();

    /// <summary>Lets so much of a lease pass.</summary>
    protected abstract Task PassAsync(double leases);

    public async ValueTask InitializeAsync() => State = await OpenAsync();

    public virtual async ValueTask DisposeAsync()
    {
        await State.DisposeAsync();
        GC.SuppressFinalize(this);
    }

    [Fact]
    public async Task Each_strand_is_taken_by_one_machine_in_the_order_of_keys_and_its_result_is_told_once()
    {
        await OfferAsync("a", "b", "c", "d", "e");
        await OfferAsync("a", "b");
        var (one, other) = (await TakeAsync(One, 2), await TakeAsync(_other, 9));
        one.Select(taken => taken.Strand.Strand).ShouldBe(["a", "b"]);
        other.Select(taken => taken.Strand.Strand).ShouldBe(["c", "d", "e"]);
        one[0].Strand.Values.ShouldBe("""{"id":"a"}""");
        (one[0].IsAnew, one[0].HasPages).ShouldBe((false, false));
        (await TakeAsync(One, 9)).ShouldBeEmpty();
        await State.Queue.FinishAsync(Name, [.. one.Select(Finished), Finished(other[1])], default);
        var finished = await State.Queue.FinishedAsync(Name, default);
        finished.Select(strand => strand.Strand).Order().ShouldBe(["a", "b", "d"]);
        await State.Queue.AcceptAsync(Name, finished, default);
        (await State.Queue.FinishedAsync(Name, default)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Whoever_is_not_heard_of_loses_its_strands_and_adds_nothing_to_them_any_more()
    {
        await OfferAsync("a", "b");
        var lost = await TakeAsync(One, 2);
        (await AddAsync(lost[0], 0)).ShouldBeEmpty();
        (await TakeAsync(_other, 9)).ShouldBeEmpty();
        await PassAsync(0.5);
        (await State.Queue.RenewAsync(Name, [KeyValuePair.Create(("p", "b"), lost[1].Fence)], default)).ShouldBe([("p", "b")]);
        await PassAsync(0.7);
        var taken = (await TakeAsync(_other, 9)).Single();
        (taken.Strand.Strand, taken.HasPages).ShouldBe(("a", true));
        taken.Fence.ShouldBeGreaterThan(lost[1].Fence);
        (await AddAsync(lost[0], 1)).ShouldBe([("p", "a")]);
        (await AddAsync(taken, 1)).ShouldBeEmpty();
        await State.Queue.FinishAsync(Name, [Finished(lost[0])], default);
        (await State.Queue.FinishedAsync(Name, default)).ShouldBeEmpty();
        (await PagesAsync("a")).ShouldBe([0, 1]);
    }

    [Fact]
    public async Task A_strand_that_was_withdrawn_and_offered_again_is_another_turn()
    {
        await OfferAsync("a");
        var before = (await TakeAsync(One, 1)).Single();
        await State.Queue.WithdrawAsync(Name, "p", "a", "b", default);
        await OfferAsync("a");
        (await AddAsync(before, 0)).ShouldBe([("p", "a")]);
        var now = (await TakeAsync(One, 1)).Single();
        now.Fence.ShouldBeGreaterThan(before.Fence);
        (await AddAsync(before, 0)).ShouldBe([("p", "a")]);
        await State.Queue.GiveBackAsync(One, default);
        (await AddAsync(now, 0)).ShouldBe([("p", "a")]);
        (await TakeAsync(_other, 1)).Single().Fence.ShouldBeGreaterThan(now.Fence);
        await State.Queue.ClearAsync(Name, default);
        (await TakeAsync(_other, 1)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Of_many_who_take_at_once_each_strand_goes_to_one()
    {
        string[] keys = [.. Enumerable.Range(0, 60).Select(key => $"k{key:D2}")];
        await OfferAsync(keys);
        await using var elsewhere = await OpenAsync();
        var taken = await Task.WhenAll(Enumerable.Range(0, 12).Select(i => Task.Run(() => (i % 2 == 0 ? State : elsewhere).Queue.TakeAsync(Name, "p", 7, Guid.NewGuid(), default))));
        taken.SelectMany(some => some).Select(one => one.Strand.Strand).Order().ShouldBe(keys);
        taken.SelectMany(some => some).Select(one => one.Fence).ShouldBeUnique();
        taken.ShouldAllBe(some => some.Count <= 7);
    }

    protected static StoredStrand Strand(string key) => new("p", key, $$"""{"id":"{{key}}"}""", "{}", "", null, null, null, null);

    private static FinishedStrand Finished(TakenStrand taken) => new(taken.Strand.Pull, taken.Strand.Strand, taken.Fence, "{}");

    private Task OfferAsync(params string[] keys) => State.Queue.OfferAsync(Name, [.. keys.Select(key => (Strand(key), false))], default);

    protected Task<IReadOnlyList<TakenStrand>> TakeAsync(Guid holder, int most) => State.Queue.TakeAsync(Name, "p", most, holder, default);

    private Task<IReadOnlyList<(string Pull, string Strand)>> AddAsync(TakenStrand taken, int page) => State.Queue.AddAsync(
        Name,
        [new StoredPage("p", taken.Strand.Strand, page, 1, 3, 7, "next", false, null, null, null, null, () => "{}\n"u8.ToArray())],
        new Dictionary<(string, string), long> { [("p", taken.Strand.Strand)] = taken.Fence },
        default);

    private async Task<List<int>> PagesAsync(string strand)
    {
        var pages = new List<int>();
        await foreach (var page in State.Landings.PagesAsync(Name, ("p", [strand]), default))
            pages.Add(page.Page);
        return pages;
    }
}
