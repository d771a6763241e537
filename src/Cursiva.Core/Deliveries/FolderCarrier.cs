using System.Security.Cryptography;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;

namespace Cursiva.Core.Deliveries;

/// <summary>Copies files into a folder. Whether they arrived can be seen there.</summary>
/// <param name="jobFolder">Where relative paths start.</param>
internal sealed class FolderCarrier(FolderWay way, IDisk disk, string jobFolder) : ICarrier
{
    /// <inheritdoc/>
    public Task<Packed> PackAsync(Parcel parcel, Outbox outbox, CancellationToken cancel) =>
        Task.FromResult(
            new Packed(Path.GetFullPath(Path.Combine(jobFolder, way.Path.Fill(parcel.News.Names))), PackedFiles.Put(parcel, outbox)));

    /// <inheritdoc/>
    public Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel) => Task.Run(() =>
    {
        try
        {
            foreach (var (name, file) in entry.Files.Zip(files))
            {
                cancel.ThrowIfCancellationRequested();
                Outbox.Copy(disk, file, Path.Combine(entry.To, name));
            }

            return new SendResult(LedgerPhase.Sent, "");
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            // A share that is not mounted may be there at the next start.
            return new SendResult(LedgerPhase.Ready, $"the folder cannot be written: {error.Message}");
        }
    }, cancel);

    /// <inheritdoc/>
    public Task<bool?> HasArrivedAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel) => Task.Run<bool?>(() =>
    {
        try
        {
            return entry.Files.Zip(files).All(pair => Same(Path.Combine(entry.To, pair.First), pair.Second));
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }, cancel);

    private static bool Same(string one, string other)
    {
        if (!File.Exists(one) || new FileInfo(one).Length != new FileInfo(other).Length)
            return false;
        using var first = File.OpenRead(one);
        using var second = File.OpenRead(other);
        return SHA256.HashData(first).AsSpan().SequenceEqual(SHA256.HashData(second));
    }
}
