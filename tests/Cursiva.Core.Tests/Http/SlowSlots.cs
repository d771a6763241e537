using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Http;

/// <summary>Slots that are written only when the test says so.</summary>
internal sealed class SlowSlots(ISlots slots) : ISlots, IDisposable
{
    private readonly SemaphoreSlim _may = new(0);
    private int _takes;

    public int Takes => _takes;

    public void GoOn() => _may.Release();

    public async Task<SlotAnswer> TakeAsync(IReadOnlyList<SlotWindow> windows, int most, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel)
    {
        Interlocked.Increment(ref _takes);
        await _may.WaitAsync(cancel);
        return await slots.TakeAsync(windows, most, hold, givenBack, cancel);
    }

    public Task<IReadOnlyList<Slot>> HoldAsync(IReadOnlyList<Slot> held, TimeSpan hold, CancellationToken cancel) => slots.HoldAsync(held, hold, cancel);

    public Task<int> CountAsync(string bucket, CancellationToken cancel) => slots.CountAsync(bucket, cancel);

    public Task PauseAsync(string client, TimeSpan span, CancellationToken cancel) => slots.PauseAsync(client, span, cancel);

    public Task<TimeSpan?> PauseLeftAsync(string client, CancellationToken cancel) => slots.PauseLeftAsync(client, cancel);

    public void Dispose() => _may.Dispose();
}
