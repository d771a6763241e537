using Cursiva.Core.Ledger;

namespace Cursiva.Core.Deliveries;

/// <summary>Puts the files of reports into the outbox as they are.</summary>
internal static class PackedFiles
{
    /// <returns>Their names as the receiver sees them: paths below the folder of the reports.</returns>
    public static IReadOnlyList<string> Put(Parcel parcel, Outbox outbox)
    {
        foreach (var (place, file) in parcel.Files.Index())
        {
            outbox.Put(parcel.Id, place, stream =>
            {
                using var source = File.OpenRead(file.Path);
                source.CopyTo(stream);
            });
        }

        outbox.Close(parcel.Id);
        return [.. parcel.Files.Select(file => Path.GetRelativePath(parcel.News.OutFolder, file.Path))];
    }
}
