namespace Cursiva.Core.State;

/// <summary>Files in a PostgreSQL database, in pieces of a megabyte.</summary>
/// <param name="root">The state folder of this machine.</param>
internal sealed class PostgresFiles(PostgresLink link, string root) : IStateFiles
{
    private const int PieceSize = 1 << 20;
    private const string IsMeant = "(name = $1 or (name >= $1 || '/' and name < $1 || '0'))";

    /// <inheritdoc/>
    public async Task PutAsync(string path, CancellationToken cancel)
    {
        IEnumerable<string> files = File.Exists(path) ? [path]
            : Directory.Exists(path) ? Directory.EnumerateFiles(path, "*", SearchOption.AllDirectories) : [];
        foreach (var file in files)
            await PutFileAsync(file, cancel);
    }

    /// <inheritdoc/>
    public async Task BringAsync(string path, CancellationToken cancel)
    {
        var files = await link.RowsAsync(
            $"select name, count(*) from cursiva.files where {IsMeant} group by name",
            rows => (Path: Path.Combine(root, rows.GetString(0)), Pieces: (int)rows.GetInt64(1)),
            cancel,
            NameOf(path));
        foreach (var (file, pieces) in files.Where(file => !File.Exists(file.Path)))
        {
            Directory.CreateDirectory(
                Path.GetDirectoryName(file)!, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
            await using (var stream = new FileStream(file + ".part", new FileStreamOptions
            {
                Mode = FileMode.Create,
                Access = FileAccess.Write,
                UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
            }))
            {
                for (var nth = 0; nth < pieces; nth++)
                    await stream.WriteAsync(await PieceAsync(file, nth, cancel), cancel);
                stream.Flush(flushToDisk: true);
            }

            File.Move(file + ".part", file, overwrite: true);
        }
    }

    /// <inheritdoc/>
    public Task RemoveAsync(string path, CancellationToken cancel) =>
        link.ExecuteAsync($"delete from cursiva.files where {IsMeant}", cancel, NameOf(path));

    private async Task PutFileAsync(string path, CancellationToken cancel)
    {
        await using var stream = File.OpenRead(path);
        var piece = new byte[PieceSize];
        var nth = 0;
        for (int read; (read = await stream.ReadAtLeastAsync(piece, PieceSize, throwOnEndOfStream: false, cancel)) > 0 || nth == 0; nth++)
        {
            await link.ExecuteAsync(
                "insert into cursiva.files values ($1, $2, $3) on conflict (name, nth) do update set piece = excluded.piece",
                cancel,
                NameOf(path),
                nth,
                piece[..read]);
        }

        await link.ExecuteAsync("delete from cursiva.files where name = $1 and nth >= $2", cancel, NameOf(path), nth);
    }

    private async Task<byte[]> PieceAsync(string path, int nth, CancellationToken cancel) =>
        (byte[])(await link.ValueAsync("select piece from cursiva.files where name = $1 and nth = $2", cancel, NameOf(path), nth)
            ?? throw new IOException($"{path} was removed from the shared state while it was copied here"));

    // The same on every machine.
    private string NameOf(string path) => Path.GetRelativePath(root, path);
}
