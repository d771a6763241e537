using Cursiva.Core.Files;
using Cursiva.Core.State;

namespace Cursiva.Core.Ledger;

/// <summary>What is to leave, as it will leave: reports of later runs do not change it.</summary>
/// <param name="folder">The absolute path of the folder of one job.</param>
/// <param name="shared">The files that other machines have as well; null where there is one machine.</param>
public sealed class Outbox(IDisk disk, string folder, IStateFiles? shared = null)
{
    private const int PieceSize = 1 << 20;

    /// <summary>Puts a file of an entry there, durably once <see cref="Close"/> returns.</summary>
    /// <param name="place">Its place among the entry's files, from 0.</param>
    /// <param name="write">Writes it.</param>
    public void Put(string id, int place, Action<Stream> write)
    {
        disk.CreateFolder(FolderOf(id));
        var file = disk.Open(PathOf(id, place));
        file.SetLength(0);
        using var stream = new DiskStream(file);
        write(stream);
        stream.Flush();
    }

    /// <summary>Makes the names of an entry's files durable.</summary>
    public void Close(string id)
    {
        disk.FlushFolder(FolderOf(id));
        disk.FlushFolder(folder);
    }

    /// <summary>The paths of an entry's files.</summary>
    public IReadOnlyList<string> FilesOf(LedgerEntry entry) => [.. entry.Files.Select((_, place) => PathOf(entry.Id, place))];

    /// <summary>Gives other machines an entry's files: any of them may send it.</summary>
    public Task ShareAsync(string id, CancellationToken cancel) => shared?.PutAsync(FolderOf(id), cancel) ?? Task.CompletedTask;

    /// <summary>Brings the files of an entry that another machine made.</summary>
    public Task BringAsync(string id, CancellationToken cancel) => shared?.BringAsync(FolderOf(id), cancel) ?? Task.CompletedTask;

    /// <summary>Removes what has left, or is not to leave any more.</summary>
    public Task RemoveAsync(string id)
    {
        disk.DeleteFolder(FolderOf(id));
        return shared?.RemoveAsync(FolderOf(id), CancellationToken.None) ?? Task.CompletedTask;
    }

    /// <summary>Copies a file to another place, where it is whole or not at all under its name.</summary>
    /// <exception cref="IOException">It cannot be written there.</exception>
    public static void Copy(IDisk disk, string from, string to)
    {
        disk.CreateFolder(Path.GetDirectoryName(to)!, shared: true);
        var temporary = to + ".part";
        using (var source = File.OpenRead(from))
        using (var file = disk.Open(temporary, shared: true))
        {
            file.SetLength(0);
            var piece = new byte[PieceSize];
            long offset = 0;
            while (source.Read(piece) is > 0 and var read)
            {
                file.Write(piece.AsSpan(0, read), offset);
                offset += read;
            }

            file.Flush();
        }

        disk.Rename(temporary, to);
        disk.FlushFolder(Path.GetDirectoryName(to)!);
    }

    private string FolderOf(string id) => Path.Combine(folder, id);

    private string PathOf(string id, int place) =>
        Path.Combine(FolderOf(id), place.ToString("D4", System.Globalization.CultureInfo.InvariantCulture));
}
