using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Http;

/// <summary>Slots that cannot be written while the test says so.</summary>
internal sealed class FailingSlots(ISlots slots) : ISlots
{
    private int _failures;

    public bool Fails { get; set; }

    public int Failures => Volatile.Read(ref _failures);

    public Task<SlotAnswer> TakeAsync(IReadOnlyList<SlotWindow> windows, int most, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel)
    {
        if (!Fails)
            return slots.TakeAsync(windows, most, hold, givenBack, cancel);
        Interlocked.Increment(ref _failures);
        throw new IOException("no space left on device");
    }

    public Task<IReadOnlyList<Slot>> HoldAsync(IReadOnlyList<Slot> held, TimeSpan hold, CancellationToken cancel) => slots.HoldAsync(held, hold, cancel);

    public Task<int> CountAsync(string bucket, CancellationToken cancel) => slots.CountAsync(bucket, cancel);

    public Task PauseAsync(string client, TimeSpan span, CancellationToken cancel) => slots.PauseAsync(client, span, cancel);

    public Task<TimeSpan?> PauseLeftAsync(string client, CancellationToken cancel) => slots.PauseLeftAsync(client, cancel);
}
