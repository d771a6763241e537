using Cursiva.Core.Files;

namespace Cursiva.Core.State;

/// <summary>Leases among the processes of one machine: the kernel gives them back when their process ends, however it ends.</summary>
/// <param name="folder">Where the files are that are locked.</param>
internal sealed class FileLeases(string folder) : ILeases
{
    private readonly Disk _disk = new();

    /// <inheritdoc/>
    public TimeSpan LookAgain => TimeSpan.FromMilliseconds(15);

    /// <inheritdoc/>
    public Task<LeaseAnswer> TryTakeAsync(string name, string holder, TimeSpan? lives, CancellationToken cancel)
    {
        _disk.CreateFolder(folder);
        var taken = ProcessLock.TryTake(Path.Combine(folder, name.Replace('/', '-')), holder, out var heldBy);
        return Task.FromResult(new LeaseAnswer(taken is null ? null : new FileLease(name, taken), heldBy));
    }

    private sealed class FileLease(string name, ProcessLock held) : ILease
    {
        public string Name => name;

        public long Fence => held.Times;

        public CancellationToken Lost => CancellationToken.None;

        public void Require()
        {
            // It is held as long as this process lives.
        }

        public ValueTask DisposeAsync()
        {
            held.Dispose();
            return ValueTask.CompletedTask;
        }
    }
}
