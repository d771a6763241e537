using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace Cursiva.Core.Files;

/// <summary>The machine's own file system.</summary>
public sealed partial class Disk : IDisk
{
    private const UnixFileMode PrivateFile = UnixFileMode.UserRead | UnixFileMode.UserWrite;
    private const UnixFileMode PrivateFolder = PrivateFile | UnixFileMode.UserExecute;

    private const UnixFileMode SharedFile = PrivateFile | UnixFileMode.GroupRead | UnixFileMode.OtherRead;
    private const UnixFileMode SharedFolder = PrivateFolder | UnixFileMode.GroupRead | UnixFileMode.GroupExecute | UnixFileMode.OtherRead | UnixFileMode.OtherExecute;

    public IDiskFile Open(string path, bool shared = false)
    {
        var stream = new FileStream(path, new FileStreamOptions
        {
            Mode = FileMode.OpenOrCreate,
            Access = FileAccess.ReadWrite,
            Share = FileShare.ReadWrite,
            BufferSize = 0,
            UnixCreateMode = shared ? SharedFile : PrivateFile,
        });
        return new OpenFile(stream);
    }

    public void CreateFolder(string path, bool shared = false)
    {
        var full = Path.GetFullPath(path);
        if (Directory.Exists(full))
            return;

        var parent = Path.GetDirectoryName(full)!;
        CreateFolder(parent, shared);
        Directory.CreateDirectory(full, shared ? SharedFolder : PrivateFolder);
        FlushFolder(parent);
    }

    public void FlushFolder(string path)
    {
        // .NET has no way to flush a folder, and without it a rename may be lost with the power.
        using var handle = OpenFolder(path, 0);
        if (handle.IsInvalid || Flush(handle) != 0)
            throw new IOException($"cannot flush the folder {path}: {Marshal.GetLastPInvokeErrorMessage()}");
    }

    public void Rename(string from, string to) => File.Move(from, to, overwrite: true);

    public void Delete(string path) => File.Delete(path);

    public bool Exists(string path) => File.Exists(path);

    public bool FolderExists(string path) => Directory.Exists(path);

    public void DeleteFolder(string path)
    {
        if (Directory.Exists(path))
            Directory.Delete(path, recursive: true);
    }

    public long FreeBytes(string folder) => new DriveInfo(folder).AvailableFreeSpace;

    public IReadOnlyList<string> List(string folder) =>
        Directory.Exists(folder) ? [.. Directory.GetFiles(folder).Order(StringComparer.Ordinal)] : [];

    [LibraryImport("libc", EntryPoint = "open", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static partial SafeFileHandle OpenFolder(string path, int flags);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static partial int Flush(SafeFileHandle handle);

    private sealed class OpenFile(FileStream stream) : IDiskFile
    {
        public long Length => RandomAccess.GetLength(stream.SafeFileHandle);

        public void Write(ReadOnlySpan<byte> bytes, long offset) => RandomAccess.Write(stream.SafeFileHandle, bytes, offset);

        public int Read(Span<byte> buffer, long offset) => RandomAccess.Read(stream.SafeFileHandle, buffer, offset);

        public void SetLength(long length) => RandomAccess.SetLength(stream.SafeFileHandle, length);

        public void Flush() => RandomAccess.FlushToDisk(stream.SafeFileHandle);

        public void Dispose() => stream.Dispose();
    }
}
