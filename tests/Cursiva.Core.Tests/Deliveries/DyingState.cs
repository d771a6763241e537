using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Deliveries;

/// <summary>A state whose process ends at one of its writes: that one is not there, and nothing after it happens.</summary>
internal sealed class DyingState(IState state, int writes) : IState
{
    private int _left = writes;

    public Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel) => state.ReadAsync(kind, key, cancel);

    public Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel) => _left-- > 0 ? state.WriteAsync(kind, key, document, cancel) : throw new DeadException();

    public Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel) => state.DeleteAsync(kind, key, cancel);

    public Task<IReadOnlyList<byte[]>> ListAsync(string kind, string prefix, CancellationToken cancel) => state.ListAsync(kind, prefix, cancel);

    public Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel) => state.NewestAsync(kind, prefix, most, cancel);

    public Task<IReadOnlyList<Slot>> HoldSlotsAsync(IReadOnlyList<Slot> slots, DateTimeOffset until, CancellationToken cancel) => state.HoldSlotsAsync(slots, until, cancel);

    public Task<SlotAnswer> TakeSlotsAsync(IReadOnlyList<SlotWindow> windows, int most, DateTimeOffset now, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel) =>
        state.TakeSlotsAsync(windows, most, now, hold, givenBack, cancel);

    public Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(string kind, string from, string before, CancellationToken cancel) => state.RangeAsync(kind, from, before, cancel);

    public Task<int> CountSlotsAsync(string bucket, DateTimeOffset now, CancellationToken cancel) => state.CountSlotsAsync(bucket, now, cancel);

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    internal sealed class DeadException : Exception;
}
