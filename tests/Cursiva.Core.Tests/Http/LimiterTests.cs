using CsCheck;
using Cursiva.Core.Http;
using Cursiva.Core.State;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Http;

public sealed class LimiterTests : IAsyncLifetime
{
    private static readonly SlotWindow s_window = new("api client 1", 5, TimeSpan.FromSeconds(1));

    private readonly TemporaryFolder _folder = new();
    private readonly FakeTimeProvider _clock = new(new DateTimeOffset(2026, 3, 2, 0, 0, 0, TimeSpan.Zero));
    private IState _state = null!;

    public ValueTask InitializeAsync()
    {
        _state = SqliteState.Open(_folder["state.db"], _clock);
        return ValueTask.CompletedTask;
    }

    public async ValueTask DisposeAsync()
    {
        await _state.DisposeAsync();
        _folder.Dispose();
    }

    [Fact]
    public async Task A_slot_is_free_again_one_window_after_its_answer_and_not_before()
    {
        await using var limiter = Limiter();
        var slots = await TakeAsync(limiter, 5);
        var sixth = limiter.TakeSlotsAsync(CancellationToken.None);
        await AdvanceAsync(TimeSpan.FromMilliseconds(400));
        limiter.GiveBack(slots[0]);

        // The answer came at 0.4 s: whenever the server saw the request, it was before that.
        await AdvanceAsync(TimeSpan.FromMilliseconds(990));
        sixth.IsCompleted.ShouldBeFalse();
        await AdvanceAsync(TimeSpan.FromMilliseconds(40));
        (await sixth).Count.ShouldBe(1);
    }

    [Fact]
    public async Task Processes_that_share_a_client_share_the_slots()
    {
        await using var one = Limiter();
        await using var otherState = SqliteState.Open(_folder["state.db"], _clock);
        await using var other = new Limiter(otherState.Slots, [s_window], TimeSpan.FromSeconds(10), _clock, new SilentWatch());
        await TakeAsync(one, 3);
        await TakeAsync(other, 2);
        other.TakeSlotsAsync(CancellationToken.None).IsCompleted.ShouldBeFalse();
    }

    [Fact]
    public async Task A_process_that_died_holds_its_slots_until_its_requests_have_timed_out()
    {
        await TakeAsync(Limiter(), 5); // never given back, as after a kill
        await using var limiter = Limiter();
        var next = limiter.TakeSlotsAsync(CancellationToken.None);
        await AdvanceAsync(TimeSpan.FromSeconds(10.9));
        next.IsCompleted.ShouldBeFalse();
        await AdvanceAsync(TimeSpan.FromSeconds(10.2)); // ten more, in which it may have got ready to send
        await next;
    }

    [Fact]
    public async Task A_pause_holds_back_every_request()
    {
        await using var limiter = Limiter();
        await limiter.PauseAsync(TimeSpan.FromSeconds(3), CancellationToken.None);
        await limiter.PauseAsync(TimeSpan.FromSeconds(1), CancellationToken.None);
        var take = limiter.TakeSlotsAsync(CancellationToken.None);
        await AdvanceAsync(TimeSpan.FromSeconds(2.9));
        take.IsCompleted.ShouldBeFalse();
        await AdvanceAsync(TimeSpan.FromSeconds(0.2));
        await take;
    }

    [Fact]
    public async Task A_pause_outlives_a_restart_and_holds_for_other_processes_of_the_client_alone()
    {
        await using (var first = new Limiter(_state.Slots, [], TimeSpan.FromSeconds(10), _clock, new SilentWatch(), client: "api client"))
            await first.PauseAsync(TimeSpan.FromSeconds(30), CancellationToken.None);
        await using var otherState = SqliteState.Open(_folder["state.db"], _clock);
        await using var next = new Limiter(otherState.Slots, [], TimeSpan.FromSeconds(10), _clock, new SilentWatch(), client: "api client");
        await using var stranger = new Limiter(otherState.Slots, [], TimeSpan.FromSeconds(10), _clock, new SilentWatch(), client: "api other");
        await stranger.TakeSlotsAsync(CancellationToken.None);
        var take = next.TakeSlotsAsync(CancellationToken.None);
        await AdvanceAsync(TimeSpan.FromSeconds(29));
        take.IsCompleted.ShouldBeFalse();
        await AdvanceAsync(TimeSpan.FromSeconds(2));
        await take;
    }

    [Fact]
    public async Task A_pause_that_another_process_is_asked_for_is_learnt_of_within_a_quarter_of_a_second()
    {
        await using var one = new Limiter(_state.Slots, [], TimeSpan.FromSeconds(10), _clock, new SilentWatch(), client: "api client");
        await using var other = new Limiter(_state.Slots, [], TimeSpan.FromSeconds(10), _clock, new SilentWatch(), client: "api client");
        await one.TakeSlotsAsync(CancellationToken.None);
        await other.PauseAsync(TimeSpan.FromSeconds(5), CancellationToken.None);
        _clock.Advance(TimeSpan.FromMilliseconds(260));
        one.TakeSlotsAsync(CancellationToken.None).IsCompleted.ShouldBeFalse();
    }

    [Fact]
    public async Task A_clock_that_is_set_back_cuts_no_window_short_and_makes_nobody_wait_for_the_time_that_was()
    {
        var slots = await TakeFromStateAsync(5);
        await TakeFromStateAsync(0, [.. slots.SelectMany(permit => permit.Slots).Select(slot => new SlotReturn(slot, TimeSpan.FromSeconds(1)))]);
        var dayBefore = new FakeTimeProvider(_clock.GetUtcNow() - TimeSpan.FromDays(1));
        await using var setBack = SqliteState.Open(_folder["state.db"], dayBefore);
        var early = await setBack.Slots.TakeAsync([s_window], 5, TimeSpan.FromSeconds(10), [], CancellationToken.None);
        early.SetBack.ShouldBe(TimeSpan.FromDays(1));
        early.Taken.ShouldBeEmpty();
        early.Wait.ShouldBeLessThanOrEqualTo(TimeSpan.FromSeconds(1));
        dayBefore.Advance(TimeSpan.FromSeconds(1.01));
        var later = await setBack.Slots.TakeAsync([s_window], 5, TimeSpan.FromSeconds(10), [], CancellationToken.None);
        (later.Taken.Count, later.SetBack).ShouldBe((5, null));
    }

    [Fact]
    public async Task A_writer_that_comes_late_out_of_the_wait_for_the_lock_is_no_clock_that_was_set_back()
    {
        await TakeFromStateAsync(1);
        await using var late = SqliteState.Open(_folder["state.db"], new FakeTimeProvider(_clock.GetUtcNow() - TimeSpan.FromSeconds(30)));
        (await late.Slots.TakeAsync([s_window], 1, TimeSpan.FromSeconds(10), [], CancellationToken.None)).SetBack.ShouldBeNull();
    }

    [Fact]
    public async Task Slots_that_could_not_be_given_back_are_given_back_with_the_next_ones()
    {
        var failing = new FailingSlots(_state.Slots);
        var atOnce = new SlotWindow("api client at once", 1, TimeSpan.Zero);
        await using var limiter = new Limiter(failing, [atOnce], TimeSpan.FromSeconds(10), _clock, new SilentWatch());
        var slots = await limiter.TakeSlotsAsync(CancellationToken.None);
        failing.Fails = true;
        limiter.GiveBack(slots);
        while (failing.Failures == 0)
            await Task.Delay(10);
        failing.Fails = false;

        // The failure may be counted before the slot is noted again: then the next one looks once more after a short wait.
        var next = limiter.TakeSlotsAsync(CancellationToken.None);
        for (var passed = TimeSpan.Zero; !next.IsCompleted; passed += TimeSpan.FromMilliseconds(10))
        {
            passed.ShouldBeLessThan(TimeSpan.FromSeconds(5), "the slot was not given back, but lost in time");
            await AdvanceAsync(TimeSpan.FromMilliseconds(10));
        }

        (await next).Count.ShouldBe(1);
    }

    [Fact]
    public async Task All_windows_are_kept_or_no_slot_is_taken()
    {
        var hour = new SlotWindow("api client 3600", 2, TimeSpan.FromHours(1));
        await using var limiter = new Limiter(_state.Slots, [s_window, hour], TimeSpan.FromSeconds(10), _clock, new SilentWatch());
        await TakeAsync(limiter, 2);
        using var stop = new CancellationTokenSource();
        var third = limiter.TakeSlotsAsync(stop.Token);
        await AdvanceAsync(TimeSpan.FromSeconds(5));
        third.IsCompleted.ShouldBeFalse();
        await stop.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(third);

        // The second's window gave nothing away to the request that could not leave.
        var answer = await _state.Slots.TakeAsync([s_window], 1, TimeSpan.FromSeconds(10), [], CancellationToken.None);
        answer.Taken.Single().Slots.Single().Place.ShouldBe(2);
    }

    [Fact]
    public async Task A_slot_is_taken_ahead_of_the_moment_when_it_is_free_and_used_at_it()
    {
        var taken = await TakeFromStateAsync(5);
        await TakeFromStateAsync(0, [.. taken.SelectMany(permit => permit.Slots).Select(slot => new SlotReturn(slot, TimeSpan.FromSeconds(1)))]);

        _clock.Advance(TimeSpan.FromMilliseconds(450));
        (await TakeFromStateAsync(1)).ShouldBeEmpty();
        _clock.Advance(TimeSpan.FromMilliseconds(60));
        var ahead = await TakeFromStateAsync(9);
        ahead.Select(permit => permit.LeavesIn).ShouldBe(Enumerable.Repeat(TimeSpan.FromMilliseconds(490), 5));
    }

    [Fact]
    public async Task Everyone_who_waits_is_served_by_one_write()
    {
        using var slow = new SlowSlots(_state.Slots);
        await using var limiter = new Limiter(slow, [s_window], TimeSpan.FromSeconds(10), _clock, new SilentWatch());
        var all = Enumerable.Range(0, 5).Select(_ => limiter.TakeSlotsAsync(CancellationToken.None)).ToArray();
        slow.GoOn();
        slow.GoOn();
        await Task.WhenAll(all);
        slow.Takes.ShouldBe(2);
        all.SelectMany(taken => taken.Result).Select(slot => slot.Place).ShouldBe([0, 1, 2, 3, 4], ignoreOrder: true);
    }

    [Fact]
    public async Task A_pause_that_begins_meanwhile_sends_a_permit_back()
    {
        await using var limiter = Limiter();
        foreach (var slots in await TakeAsync(limiter, 5))
            limiter.GiveBack(slots);
        var sixth = limiter.TakeSlotsAsync(CancellationToken.None);
        await AdvanceAsync(TimeSpan.FromSeconds(0.9));
        await limiter.PauseAsync(TimeSpan.FromSeconds(3), CancellationToken.None);
        await AdvanceAsync(TimeSpan.FromSeconds(2.9));
        sixth.IsCompleted.ShouldBeFalse();
        await AdvanceAsync(TimeSpan.FromSeconds(0.2));
        await sixth;
        (await TakeFromStateAsync(9)).Count.ShouldBe(4);
    }

    [Fact]
    public async Task A_slot_that_went_to_someone_else_is_not_given_back_by_its_first_holder()
    {
        var lost = await TakeFromStateAsync(5);
        _clock.Advance(TimeSpan.FromSeconds(12));
        (await TakeFromStateAsync(5)).Count.ShouldBe(5);

        // The first holder was only slow: it comes back, and its slots have gone to others meanwhile.
        await TakeFromStateAsync(0, [.. lost.SelectMany(permit => permit.Slots).Select(slot => new SlotReturn(slot, TimeSpan.Zero))]);
        (await TakeFromStateAsync(1)).ShouldBeEmpty();
    }

    [Fact]
    public void However_long_the_ways_take_no_window_at_the_server_holds_more_than_the_limit() =>
        Gen.Select(Gen.Int[1, 300], Gen.Int[1, 300]).Array[40].Sample(ways =>
        {
            // Eight requests at a time; what arrives when is simulated, and slots are taken by the same rule.
            const int Limit = 6;
            var free = new PriorityQueue<double, double>(Enumerable.Repeat((0.0, 0.0), Limit));
            var arrivals = ways.Select(way =>
            {
                var leaves = free.Dequeue();
                var (arrives, answered) = (leaves + way.Item1, leaves + way.Item1 + way.Item2);
                free.Enqueue(answered + 1000, answered + 1000);
                return arrives;
            }).Order().ToArray();
            for (var i = Limit; i < arrivals.Length; i++)
                (arrivals[i] - arrivals[i - Limit]).ShouldBeGreaterThanOrEqualTo(1000);
        });

    private Limiter Limiter() => new(_state.Slots, [s_window], TimeSpan.FromSeconds(10), _clock, new SilentWatch());

    private async Task<IReadOnlyList<Permit>> TakeFromStateAsync(int most, IReadOnlyList<SlotReturn>? givenBack = null) =>
        (await _state.Slots.TakeAsync([s_window], most, TimeSpan.FromSeconds(10), givenBack ?? [], CancellationToken.None)).Taken;

    private static async Task<List<IReadOnlyList<Slot>>> TakeAsync(Limiter limiter, int count)
    {
        var slots = new List<IReadOnlyList<Slot>>();
        for (var i = 0; i < count; i++)
            slots.Add(await limiter.TakeSlotsAsync(CancellationToken.None));
        return slots;
    }

    // In small steps, so that whoever waits on the clock is woken as it would be.
    private async Task AdvanceAsync(TimeSpan span)
    {
        for (var passed = TimeSpan.Zero; passed < span; passed += TimeSpan.FromMilliseconds(10))
        {
            _clock.Advance(TimeSpan.FromMilliseconds(10));
            await Task.Delay(1);
        }
    }
}
