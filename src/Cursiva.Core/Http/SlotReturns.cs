using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Http;

/// <summary>
/// Slots that are to be given back. They go with the next ones that are taken; those at once go now. None is lost where the state fails
/// once.
/// </summary>
/// <param name="clock">Slots are noted by its timestamps, which nobody sets.</param>
/// <param name="settle">Gives slots back and takes none.</param>
internal sealed class SlotReturns(TimeProvider clock, Func<IReadOnlyList<SlotReturn>, Task<SlotAnswer>> settle) : IAsyncDisposable
{
    private readonly Lock _gate = new();
    private readonly List<(Slot Slot, TimeSpan FreeAt)> _slots = [];
    private readonly List<Task> _settling = [];

    /// <summary>Notes slots, and when each is free.</summary>
    public void Add(IReadOnlyList<(Slot Slot, TimeSpan FreeAt)> slots)
    {
        lock (_gate)
        {
            _slots.AddRange(slots);
            _settling.RemoveAll(task => task.IsCompletedSuccessfully);

            // Slots of a window come back with the next request that leaves, in time; a place among those at once is free now.
            if (slots.Any(slot => slot.Slot.Window.Window == TimeSpan.Zero))
                _settling.Add(Task.Run(SettleAsync));
        }
    }

    /// <summary>Does not close before a task is done, which may add slots.</summary>
    public void Await(Task task)
    {
        lock (_gate)
            _settling.Add(task);
    }

    /// <summary>Gives back what is noted with something that takes slots; it stays noted where that fails.</summary>
    public async Task<SlotAnswer> WithAsync(Func<IReadOnlyList<SlotReturn>, Task<SlotAnswer>> take)
    {
        List<(Slot Slot, TimeSpan FreeAt)> slots;
        lock (_gate)
        {
            slots = [.. _slots];
            _slots.Clear();
        }

        try
        {
            var now = clock.GetElapsedTime(0);
            return await take(slots.ConvertAll(noted => new SlotReturn(noted.Slot, noted.FreeAt - now)));
        }
        catch
        {
            lock (_gate)
                _slots.AddRange(slots);
            throw;
        }
    }

    /// <summary>Gives back what was not given back yet.</summary>
    public async ValueTask DisposeAsync()
    {
        for (var left = Settling(); left.Length > 0; left = Settling())
            await Task.WhenAll(left);
        await SettleAsync();
    }

    // Where the state cannot be written now, the next request gives them back; after the last one they are taken for lost in time.
    private async Task SettleAsync()
    {
        try
        {
            if (_slots.Count > 0)
                await WithAsync(settle);
        }
        catch (Exception error) when (error is SqliteException or IOException)
        {
            // Whoever takes the next slots is told of the state.
        }
    }

    private Task[] Settling()
    {
        lock (_gate)
        {
            Task[] settling = [.. _settling];
            _settling.Clear();
            return settling;
        }
    }
}
