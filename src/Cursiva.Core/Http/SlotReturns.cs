using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Http;

/// <summary>Slots that are to be given back. They go with the next ones that are taken; those at once go now. None is lost where the state fails once.</summary>
/// <param name="settle">Gives slots back and takes none.</param>
internal sealed class SlotReturns(Func<IReadOnlyList<SlotReturn>, Task<SlotAnswer>> settle) : IAsyncDisposable
{
    private readonly Lock _gate = new();
    private readonly List<SlotReturn> _slots = [];
    private readonly List<Task> _settling = [];

    /// <summary>Notes slots.</summary>
    public void Add(IReadOnlyList<SlotReturn> slots)
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
        List<SlotReturn> slots;
        lock (_gate)
        {
            slots = [.. _slots];
            _slots.Clear();
        }

        try
        {
            return await take(slots);
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
