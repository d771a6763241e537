namespace Cursiva.Core.Files;

/// <summary>Small files that are there whole or not at all (promise 5).</summary>
public static class WholeFile
{
    /// <summary>Writes a file under a temporary name, flushes it, renames it and flushes its folder.</summary>
    /// <exception cref="IOException">The file or its folder cannot be written.</exception>
    /// <param name="shared">Whether others may read it; otherwise mode 0600.</param>
    public static void Write(IDisk disk, string path, ReadOnlySpan<byte> bytes, bool shared = false)
    {
        var temporary = path + ".part";
        using (var file = disk.Open(temporary, shared))
        {
            file.SetLength(0);
            file.Write(bytes, 0);
            file.Flush();
        }

        disk.Rename(temporary, path);
        disk.FlushFolder(Path.GetDirectoryName(Path.GetFullPath(path))!);
    }

    /// <summary>Reads a file whole.</summary>
    public static byte[] Read(IDisk disk, string path)
    {
        using var file = disk.Open(path);
        var bytes = new byte[file.Length];
        var read = 0;
        while (read < bytes.Length && file.Read(bytes.AsSpan(read), read) is > 0 and var count)
            read += count;
        return bytes[..read];
    }
}
