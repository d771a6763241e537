using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Threading.Channels;
using Cursiva.Core.State;

namespace Cursiva.Core.Writes;

/// <summary>
/// The ledger of items. Each entry is durable when a call returns; what several items have to say meanwhile goes to the disk together,
/// so that its flush is paid for once.
/// </summary>
/// <param name="job">Names the job in state.</param>
/// <param name="write">The write's name.</param>
public sealed class ItemBook(IState state, string job, string write, TimeProvider clock) : IAsyncDisposable
{
    private const string Kind = "written";
    private const int Together = 500;

    private readonly Channel<(KeyValuePair<string, byte[]> Document, TaskCompletionSource Done)> _pending =
        Channel.CreateBounded<(KeyValuePair<string, byte[]>, TaskCompletionSource)>(
        Together);
    private Task? _writing;

    /// <summary>Whether nothing is noted: somebody only wants to know what would be done.</summary>
    public bool IsDry { get; init; }

    /// <summary>What is known of an item; null for nothing.</summary>
    public async Task<ItemEntry?> FindAsync(string key, CancellationToken cancel) =>
        await state.ReadAsync(Kind, KeyOf(key), cancel) is { } document ? Read(document) : null;

    /// <summary>All items.</summary>
    public async Task<IReadOnlyList<ItemEntry>> AllAsync(CancellationToken cancel) =>
        [.. (await state.ListAsync(Kind, $"{job}/{write}/", cancel)).Select(Read)];

    /// <summary>Enters where an item stands, durably. What has happened is noted, also while the run is being stopped.</summary>
    /// <returns>The entry as it is now.</returns>
    public async Task<ItemEntry> EnterAsync(ItemEntry entry)
    {
        var dated = entry with { At = clock.GetUtcNow() };
        if (IsDry)
            return dated;
        var done = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        lock (_pending)
            _writing ??= Task.Run(WriteAsync);
        await _pending.Writer.WriteAsync(
            (KeyValuePair.Create(KeyOf(entry.Key), JsonSerializer.SerializeToUtf8Bytes(dated, WriteJson.Default.ItemEntry)), done));
        await done.Task;
        return dated;
    }

    /// <summary>Forgets an item.</summary>
    public Task ForgetAsync(string key, CancellationToken cancel) =>
        IsDry ? Task.CompletedTask : state.DeleteAsync(Kind, KeyOf(key), cancel);

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        _pending.Writer.Complete();
        if (_writing is not null)
            await _writing;
    }

    private async Task WriteAsync()
    {
        var batch = new List<(KeyValuePair<string, byte[]> Document, TaskCompletionSource Done)>();
        while (await _pending.Reader.WaitToReadAsync())
        {
            batch.Clear();
            while (batch.Count < Together && _pending.Reader.TryRead(out var next))
                batch.Add(next);
            try
            {
                await state.WriteAllAsync(Kind, [.. batch.Select(item => item.Document)], CancellationToken.None);
                batch.ForEach(item => item.Done.SetResult());
            }
            catch (Exception error)
            {
                // Whoever waits is told; nothing goes on that was not noted.
                batch.ForEach(item => item.Done.SetException(error));
            }
        }
    }

    private static ItemEntry Read(byte[] document) => JsonSerializer.Deserialize(document, WriteJson.Default.ItemEntry)!;

    private string KeyOf(string key) => $"{job}/{write}/{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(key)))}";
}
