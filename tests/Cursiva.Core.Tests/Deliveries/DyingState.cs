using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Deliveries;

/// <summary>A state whose process ends at one of its writes: that one is not there, and nothing after it happens.</summary>
internal sealed class DyingState(IState state, int writes) : IState
{
    private int _left = writes;

    public TimeProvider Clock => state.Clock;

    public ISlots Slots => state.Slots;

    public ILeases Leases => state.Leases;

    public INotes Notes => state.Notes;

    public ILandings Landings => state.Landings;

    public IStateFiles Files => state.Files;

    public IStrandQueue Queue => state.Queue;

    public IState Under(ILease lease) => this;

    public Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel) => state.ReadAsync(kind, key, cancel);

    public Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel) =>
        _left-- > 0 ? state.WriteAsync(kind, key, document, cancel) : throw new DeadException();

    public Task<bool> SwapAsync(string kind, string key, byte[]? before, byte[] document, CancellationToken cancel) =>
        _left-- > 0 ? state.SwapAsync(kind, key, before, document, cancel) : throw new DeadException();

    public Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel) => state.DeleteAsync(kind, key, cancel);

    public Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel) => state.NewestAsync(kind, prefix, most, cancel);

    public Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(string kind, string from, string before, CancellationToken cancel) => state.RangeAsync(kind, from, before, cancel);

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    internal sealed class DeadException : Exception;
}
