using Cursiva.Core.Files;

namespace Cursiva.Core.State;

/// <summary>Notes as files of the state folder.</summary>
internal sealed class FileNotes(string root) : INotes
{
    private readonly Disk _disk = new();

    /// <inheritdoc/>
    public async Task<byte[]?> ReadAsync(string name, CancellationToken cancel)
    {
        try
        {
            return File.Exists(PathOf(name)) ? await File.ReadAllBytesAsync(PathOf(name), cancel) : null;
        }
        catch (IOException)
        {
            return null;
        }
    }

    /// <inheritdoc/>
    public Task WriteAsync(string name, byte[] note, CancellationToken cancel)
    {
        // Whole or not at all, and not flushed.
        _disk.CreateFolder(Path.GetDirectoryName(PathOf(name))!);
        File.WriteAllBytes(PathOf(name) + ".part", note);
        File.Move(PathOf(name) + ".part", PathOf(name), overwrite: true);
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public Task ClearAsync(string name, CancellationToken cancel)
    {
        if (File.Exists(PathOf(name)))
            File.Delete(PathOf(name));
        return Task.CompletedTask;
    }

    private string PathOf(string name) => Path.Combine(root, name);
}
