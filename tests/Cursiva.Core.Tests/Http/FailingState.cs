using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Http;

/// <summary>A state whose slots cannot be written while the test says so.</summary>
internal sealed class FailingState(IState state) : IState
{
    private int _failures;

    public bool Fails { get; set; }

    public int Failures => Volatile.Read(ref _failures);

    public Task<SlotAnswer> TakeSlotsAsync(IReadOnlyList<SlotWindow> windows, int most, DateTimeOffset now, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel)
    {
        if (!Fails)
            return state.TakeSlotsAsync(windows, most, now, hold, givenBack, cancel);
        Interlocked.Increment(ref _failures);
        throw new IOException("no space left on device");
    }

    public Task<IReadOnlyList<Slot>> HoldSlotsAsync(IReadOnlyList<Slot> slots, DateTimeOffset until, CancellationToken cancel) => state.HoldSlotsAsync(slots, until, cancel);

    public Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel) => state.ReadAsync(kind, key, cancel);

    public Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel) => state.WriteAsync(kind, key, document, cancel);

    public Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel) => state.DeleteAsync(kind, key, cancel);

    public Task<IReadOnlyList<byte[]>> ListAsync(string kind, string prefix, CancellationToken cancel) => state.ListAsync(kind, prefix, cancel);

    public Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel) => state.NewestAsync(kind, prefix, most, cancel);

    public Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(string kind, string from, string before, CancellationToken cancel) => state.RangeAsync(kind, from, before, cancel);

    public Task<int> CountSlotsAsync(string bucket, DateTimeOffset now, CancellationToken cancel) => state.CountSlotsAsync(bucket, now, cancel);

    public ValueTask DisposeAsync() => state.DisposeAsync();
}
