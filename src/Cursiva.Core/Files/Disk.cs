using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace Cursiva.Core.Files;

/// <summary>The machine's own file system.</summary>
public sealed partial class Disk : IDisk
{
    private const UnixFileMode PrivateFile = UnixFileMode.UserRead | UnixFileMode.UserWrite;
    private const UnixFileMode PrivateFolder = PrivateFile | UnixFileMode.UserExecute;

    private const UnixFileMode SharedFile = PrivateFile | UnixFileMode.GroupRead | UnixFileMode.OtherRead;
    private const UnixFileMode SharedFolder =
        PrivateFolder | UnixFileMode.GroupRead | UnixFileMode.GroupExecute | UnixFileMode.OtherRead | UnixFileMode.OtherExecute;

    /// <inheritdoc/>
    public IDiskFile Open(string path, bool shared = false) => OpenIt(path, OpenFlags.ReadWrite | OpenFlags.Create, shared);

    /// <inheritdoc/>
    public IDiskFile Create(string path, bool shared = false) =>
        OpenIt(path, OpenFlags.ReadWrite | OpenFlags.Create | OpenFlags.New, shared);

    /// <inheritdoc/>
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

    /// <inheritdoc/>
    public void FlushFolder(string path)
    {
        // .NET has no way to flush a folder, and without it a rename may be lost with the power.
        using var handle = LibcOpen(path, 0, 0);
        if (handle.IsInvalid || LibcFlush(handle) != 0)
            throw new IOException($"cannot flush the folder {path}: {Marshal.GetLastPInvokeErrorMessage()}");
    }

    /// <inheritdoc/>
    public void Rename(string from, string to) => File.Move(from, to, overwrite: true);

    /// <inheritdoc/>
    public void Delete(string path) => File.Delete(path);

    /// <inheritdoc/>
    public bool Exists(string path) => File.Exists(path);

    /// <inheritdoc/>
    public bool FolderExists(string path) => Directory.Exists(path);

    /// <inheritdoc/>
    public void DeleteFolder(string path)
    {
        if (Directory.Exists(path))
            Directory.Delete(path, recursive: true);
    }

    /// <inheritdoc/>
    public long FreeBytes(string folder) => new DriveInfo(folder).AvailableFreeSpace;

    /// <inheritdoc/>
    public IReadOnlyList<string> Folders(string folder) =>
        Directory.Exists(folder)
            ? [.. Directory.GetDirectories(folder).Select(path => Path.GetFileName(path)).Order(StringComparer.Ordinal)]
            : [];

    /// <inheritdoc/>
    public IReadOnlyList<string> List(string folder) =>
        Directory.Exists(folder) ? [.. Directory.GetFiles(folder).Order(StringComparer.Ordinal)] : [];

    // Whoever can write into the folder could have planted a link there: it is not followed.
    private static OpenFile OpenIt(string path, OpenFlags flags, bool shared)
    {
        var handle = LibcOpen(path, flags.Value | OpenFlags.OfOurs.Value, (int)(shared ? SharedFile : PrivateFile));
        if (!handle.IsInvalid)
            return new OpenFile(path, handle);
        var (code, why) = (Marshal.GetLastPInvokeError(), Marshal.GetLastPInvokeErrorMessage());
        handle.Dispose();
        throw code switch
        {
            TooManyLinks => new IOException($"{path} is a link, which is not followed, since somebody else may have made it"),
            NoPermission => new UnauthorizedAccessException($"cannot open {path}: {why}"),
            NoSuchFile => new DirectoryNotFoundException($"cannot open {path}: {why}"),
            NameTooLong => new PathTooLongException($"the name of {path} is longer than the file system allows"),
            _ => new IOException($"cannot open {path}: {why}"),
        };
    }

    // Codes of errno(3) on Linux.
    private const int NoSuchFile = 2;
    private const int NoPermission = 13;
    private const int NameTooLong = 36;
    private const int TooManyLinks = 40;

    [LibraryImport("libc", EntryPoint = "open", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static partial SafeFileHandle LibcOpen(string path, int flags, int mode);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static partial int LibcFlush(SafeFileHandle handle);

    // Flags of open(2) on Linux; two of them differ by processor.
    private sealed record OpenFlags(int Value)
    {
        public static readonly OpenFlags ReadWrite = new(0x2);
        public static readonly OpenFlags Create = new(0x40);
        public static readonly OpenFlags New = new(0x80);
        public static readonly OpenFlags OfOurs = new(
            0x80000 | (RuntimeInformation.ProcessArchitecture is Architecture.Arm64 or Architecture.Arm ? 0x8000 : 0x20000));

        public static OpenFlags operator |(OpenFlags one, OpenFlags other) => new(one.Value | other.Value);
    }

    private sealed class OpenFile(string path, SafeFileHandle handle) : IDiskFile
    {
        public long Length => RandomAccess.GetLength(handle);

        public void Write(ReadOnlySpan<byte> bytes, long offset) => RandomAccess.Write(handle, bytes, offset);

        public int Read(Span<byte> buffer, long offset) => RandomAccess.Read(handle, buffer, offset);

        public void SetLength(long length) => RandomAccess.SetLength(handle, length);

        public void Flush()
        {
            // RandomAccess.FlushToDisk tells neither a failed write-back nor a full disk.
            if (LibcFlush(handle) != 0)
                throw new IOException($"cannot flush {path}: {Marshal.GetLastPInvokeErrorMessage()}");
        }

        public void Dispose() => handle.Dispose();
    }
}
