using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Writes;

namespace Cursiva.Core.Deliveries;

/// <summary>Uploads files to an API by steps, each file noted by itself: the steps know what is in doubt and look it up.</summary>
/// <param name="desk">Works on the files.</param>
internal sealed class UploadCarrier(UploadWay way, FileDesk desk) : ICarrier
{
    /// <inheritdoc/>
    public Task<Packed> PackAsync(Parcel parcel, Outbox outbox, CancellationToken cancel) =>
        Task.FromResult(
            new Packed(
                $"{way.Work.Api}: {parcel.Files.Count:N0} {(parcel.Files.Count == 1 ? "file" : "files")}",
                PackedFiles.Put(parcel, outbox)));

    /// <inheritdoc/>
    public async Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        var (phase, said) = await desk.SendAsync(way.Work, entry, files, cancel);
        return new SendResult(phase, said);
    }

    /// <inheritdoc/>
    public Task<bool?> HasArrivedAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel) =>
        Task.FromResult<bool?>(false);
}
