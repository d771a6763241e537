using System.Text;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

/// <summary>What every engine has to do alike. Each test opens the state twice, as two processes or two machines do.</summary>
public abstract class StateContract : IAsyncLifetime
{
    private readonly List<IState> _open = [];

    /// <summary>The engine, of the same state every time.</summary>
    protected abstract Task<IStateEngine> EngineAsync();

    public ValueTask InitializeAsync() => ValueTask.CompletedTask;

    public virtual async ValueTask DisposeAsync()
    {
        foreach (var state in _open)
            await state.DisposeAsync();
        GC.SuppressFinalize(this);
    }

    protected async Task<IState> OpenAsync()
    {
        _open.Add(await (await EngineAsync()).OpenAsync(CancellationToken.None));
        return _open[^1];
    }

    [Fact]
    public async Task A_document_is_what_was_written_last_by_whomever_and_every_byte_of_it()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        (await one.ReadAsync("kind", "key", default)).ShouldBeNull();
        await one.WriteAsync("kind", "key", [0, 1, 255], default);
        await other.WriteAsync("kind", "key", [2, 0], default);
        await other.WriteAsync("another", "key", [3], default);
        (await one.ReadAsync("kind", "key", default)).ShouldBe([2, 0]);
        (await one.DeleteAsync("kind", "key", default)).ShouldBeTrue();
        (await one.DeleteAsync("kind", "key", default)).ShouldBeFalse();
        (await other.ReadAsync("kind", "key", default)).ShouldBeNull();
        (await other.ReadAsync("another", "key", default)).ShouldBe([3]);
    }

    [Fact]
    public async Task Documents_are_listed_in_the_order_of_their_keys_bytes()
    {
        var state = await OpenAsync();
        string[] keys = ["a/1", "a/10", "a/2", "a/Z", "a/z", "a/é", "a/😀", "a", "b/1", "A/1"];
        await state.WriteAllAsync("list", [.. keys.Select(key => KeyValuePair.Create(key, Encoding.UTF8.GetBytes(key)))], default);
        Texts(await state.ListAsync("list", "a/", default)).ShouldBe(["a/1", "a/10", "a/2", "a/Z", "a/z", "a/é", "a/😀"]);
        Texts(await state.NewestAsync("list", "a/", 2, default)).ShouldBe(["a/é", "a/😀"]);
        (await state.RangeAsync("list", "a/10", "a/z", default)).Select(pair => pair.Key).ShouldBe(["a/10", "a/2", "a/Z"]);
        await state.WriteAllAsync("list", [KeyValuePair.Create("a/1", "first"u8.ToArray()), KeyValuePair.Create("a/1", "second"u8.ToArray())], default);
        Encoding.UTF8.GetString((await state.ReadAsync("list", "a/1", default))!).ShouldBe("second");
        await state.WriteAllAsync("list", [], default);
    }

    [Fact]
    public async Task Of_those_who_swap_the_same_document_one_wins()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        var first = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => (i % 2 == 0 ? one : other).SwapAsync("swap", "key", null, [(byte)i], default)));
        first.Count(won => won).ShouldBe(1);
        var now = (await one.ReadAsync("swap", "key", default))!;
        now.ShouldBe([(byte)Array.IndexOf(first, true)]);
        var then = await Task.WhenAll(Enumerable.Range(10, 8).Select(i => (i % 2 == 0 ? one : other).SwapAsync("swap", "key", now, [(byte)i], default)));
        then.Count(won => won).ShouldBe(1);
        (await one.SwapAsync("swap", "key", now, [99], default)).ShouldBeFalse();
        (await one.SwapAsync("swap", "none", [1], [2], default)).ShouldBeFalse();
    }

    [Fact]
    public async Task A_lease_has_one_holder_who_is_told_to_the_others_and_the_next_one_has_a_higher_fence()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        var mine = (await one.Leases.TryTakeAsync("job/x", "process 1 on here", null, default)).Lease!;
        mine.Require();
        var refused = await other.Leases.TryTakeAsync("job/x", "process 2 on there", null, default);
        (refused.Lease, refused.HeldBy).ShouldBe((null, "process 1 on here"));
        await using (var elsewhere = (await other.Leases.TryTakeAsync("job/y", "process 2", null, default)).Lease!)
            elsewhere.Name.ShouldBe("job/y");
        var waiting = other.Leases.TakeAsync("job/x", "process 2 on there", null, TimeProvider.System, default);
        await Task.Delay(50);
        waiting.IsCompleted.ShouldBeFalse();
        await mine.DisposeAsync();
        await using var next = await waiting.WaitAsync(TimeSpan.FromSeconds(10));
        next.Fence.ShouldBeGreaterThan(mine.Fence);
        await next.DisposeAsync();
        await using var third = (await one.Leases.TryTakeAsync("job/x", "process 1 again", null, default)).Lease!;
        third.Fence.ShouldBeGreaterThan(next.Fence);
    }

    [Fact]
    public async Task What_is_written_under_a_lease_is_there_for_everybody()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        await using var lease = (await one.Leases.TryTakeAsync("job/x", "me", null, default)).Lease!;
        var mine = one.Under(lease);
        await mine.WriteAsync("run", "1", [1], default);
        await mine.WriteAllAsync("run", [KeyValuePair.Create<string, byte[]>("2", [2]), KeyValuePair.Create<string, byte[]>("3", [3])], default);
        (await mine.DeleteAsync("run", "3", default)).ShouldBeTrue();
        (await other.ListAsync("run", "", default)).ShouldBe([[1], [2]]);
    }

    [Fact]
    public async Task A_note_is_there_until_it_is_cleared()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        (await other.Notes.ReadAsync("jobs/x/pulse", default)).ShouldBeNull();
        await one.Notes.WriteAsync("jobs/x/pulse", [1], default);
        await one.Notes.WriteAsync("jobs/x/pulse", [2, 0], default);
        (await other.Notes.ReadAsync("jobs/x/pulse", default)).ShouldBe([2, 0]);
        await other.Notes.ClearAsync("jobs/x/pulse", default);
        await other.Notes.ClearAsync("jobs/x/pulse", default);
        (await one.Notes.ReadAsync("jobs/x/pulse", default)).ShouldBeNull();
    }

    [Fact]
    public async Task All_windows_have_a_slot_or_none_is_taken_and_given_back_slots_are_free_when_they_are_told_to_be()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        var (second, hour) = (new SlotWindow("api a 1", 3, TimeSpan.FromSeconds(1)), new SlotWindow("api a 3600", 2, TimeSpan.FromHours(1)));
        var taken = (await one.Slots.TakeAsync([second, hour], 5, TimeSpan.FromMinutes(1), [], default)).Taken;
        taken.Select(permit => permit.Slots.Select(slot => (slot.Window, slot.Place))).ShouldBe([[(second, 0), (hour, 0)], [(second, 1), (hour, 1)]]);
        taken.ShouldAllBe(permit => permit.LeavesIn <= TimeSpan.Zero);
        var none = await other.Slots.TakeAsync([second, hour], 1, TimeSpan.FromMinutes(1), [], default);
        (none.Taken.Count, none.Full, none.Wait).ShouldBe((0, hour, TimeSpan.FromMilliseconds(20)));
        (await other.Slots.TakeAsync([second], 9, TimeSpan.FromMinutes(1), [], default)).Taken.Single().Slots.Single().Place.ShouldBe(2);
        (await one.Slots.CountAsync(second.Bucket, default)).ShouldBe(3);

        // Free in 0.3 s, and so taken ahead already; the other one in 20 s.
        var back = taken.SelectMany(permit => permit.Slots).Select(slot => new SlotReturn(slot, TimeSpan.FromSeconds(slot.Place == 0 ? 0.3 : 20))).ToList();
        var ahead = (await other.Slots.TakeAsync([second, hour], 5, TimeSpan.FromMinutes(1), back, default)).Taken.Single();
        ahead.Slots.Select(slot => slot.Place).ShouldBe([0, 0]);
        ahead.LeavesIn.ShouldBeInRange(TimeSpan.FromMilliseconds(1), TimeSpan.FromMilliseconds(300));
        var wait = await one.Slots.TakeAsync([second, hour], 1, TimeSpan.FromMinutes(1), [], default);
        wait.Full.ShouldBe(second);
        wait.Wait.ShouldBeInRange(TimeSpan.FromSeconds(15), TimeSpan.FromSeconds(20));

        // The first holder is late: its slots are another's by now.
        await one.Slots.TakeAsync([second], 0, TimeSpan.FromMinutes(1), [.. back.Select(given => given with { FreeIn = TimeSpan.FromSeconds(-1) })], default);
        (await one.Slots.CountAsync(second.Bucket, default)).ShouldBe(3);
    }

    [Fact]
    public async Task A_slot_of_a_holder_that_is_never_heard_of_again_is_free_after_its_hold_and_one_window_unless_it_is_held_for_longer()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        var window = new SlotWindow("api b", 2, TimeSpan.FromMilliseconds(200));
        var taken = (await one.Slots.TakeAsync([window], 2, TimeSpan.FromMilliseconds(200), [], default)).Taken;
        var held = await one.Slots.HoldAsync([taken[0].Slots[0]], TimeSpan.FromMinutes(1), default);
        held.Single().Place.ShouldBe(0);
        (await other.Slots.TakeAsync([window], 2, TimeSpan.FromMinutes(1), [], default)).Taken.ShouldBeEmpty();
        await Task.Delay(500);
        (await other.Slots.TakeAsync([window], 2, TimeSpan.FromMinutes(1), [], default)).Taken.Single().Slots.Single().Place.ShouldBe(1);
        (await one.Slots.HoldAsync([taken[1].Slots[0]], TimeSpan.FromMinutes(1), default)).ShouldBeEmpty();
        await one.Slots.TakeAsync([], 0, TimeSpan.FromMinutes(1), [new SlotReturn(held[0], TimeSpan.Zero)], default);
        (await one.Slots.CountAsync(window.Bucket, default)).ShouldBe(1);
    }

    [Fact]
    public async Task A_pause_is_known_to_everybody_of_that_client_and_a_shorter_one_does_not_end_it()
    {
        var (one, other) = (await OpenAsync(), await OpenAsync());
        (await one.Slots.PauseLeftAsync("client", default)).ShouldBeNull();
        await one.Slots.PauseAsync("client", TimeSpan.FromSeconds(30), default);
        await one.Slots.PauseAsync("client", TimeSpan.FromSeconds(5), default);
        (await other.Slots.PauseLeftAsync("client", default))!.Value.ShouldBeInRange(TimeSpan.FromSeconds(20), TimeSpan.FromSeconds(30));
        (await other.Slots.PauseLeftAsync("another", default)).ShouldBeNull();
        await other.Slots.PauseAsync("short", TimeSpan.FromMilliseconds(30), default);
        await Task.Delay(60);
        (await one.Slots.PauseLeftAsync("short", default)).ShouldBeNull();
    }

    [Fact]
    public async Task Many_who_take_slots_at_once_never_have_more_than_there_are()
    {
        var states = new[] { await OpenAsync(), await OpenAsync(), await OpenAsync() };
        SlotWindow[] windows = [new("api c 1", 20, TimeSpan.FromMinutes(1)), new("api c 2", 25, TimeSpan.FromHours(1))];
        var all = await Task.WhenAll(Enumerable.Range(0, 12).Select(i => Task.Run(() => states[i % 3].Slots.TakeAsync([.. i % 2 == 0 ? windows : windows.Reverse()], 3, TimeSpan.FromMinutes(1), [], default))));
        var slots = all.SelectMany(answer => answer.Taken).SelectMany(permit => permit.Slots).ToList();
        slots.Count(slot => slot.Window == windows[0]).ShouldBe(20);
        slots.Select(slot => (slot.Window, slot.Place)).ShouldBeUnique();
    }

    private static List<string> Texts(IReadOnlyList<byte[]> documents) => [.. documents.Select(document => Encoding.UTF8.GetString(document))];
}
