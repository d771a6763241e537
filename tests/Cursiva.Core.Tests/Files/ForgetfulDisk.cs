using Cursiva.Core.Files;

namespace Cursiva.Core.Tests.Files;

/// <summary>
/// A disk that forgets: whatever was not flushed when the power goes is gone. File contents last once the file was flushed,
/// names once their folder was.
/// </summary>
internal sealed class ForgetfulDisk : IDisk
{
    private readonly Disk _disk = new();
    private readonly Dictionary<string, byte[]> _lasting = new(StringComparer.Ordinal);
    private readonly Dictionary<string, string?> _namesInDoubt = new(StringComparer.Ordinal);
    private readonly Lock _gate = new();

    public IDiskFile Open(string path, bool shared = false) => Open(path, () => _disk.Open(path, shared));

    public IDiskFile Create(string path, bool shared = false) => Open(path, () => _disk.Create(path, shared));

    private ForgetfulFile Open(string path, Func<IDiskFile> open)
    {
        lock (_gate)
        {
            if (!_disk.Exists(path))
            {
                _namesInDoubt.TryAdd(path, null);
                _lasting[path] = [];
            }
            else if (!_lasting.ContainsKey(path))
            {
                _lasting[path] = File.ReadAllBytes(path);
            }

            return new ForgetfulFile(this, path, open());
        }
    }

    public void CreateFolder(string path, bool shared = false) => _disk.CreateFolder(path, shared);

    public bool FolderExists(string path) => _disk.FolderExists(path);

    public void DeleteFolder(string path) => _disk.DeleteFolder(path);

    public long FreeBytes(string folder) => _disk.FreeBytes(folder);

    public void FlushFolder(string path)
    {
        lock (_gate)
        {
            _disk.FlushFolder(path);
            foreach (var name in _namesInDoubt.Keys.Where(name => Path.GetDirectoryName(name) == path).ToArray())
                _namesInDoubt.Remove(name);
        }
    }

    public void Rename(string from, string to)
    {
        lock (_gate)
        {
            // Until the folder is flushed, the old file may come back under the new name.
            var kept = from + ".before-rename";
            if (_disk.Exists(to))
                File.Copy(to, kept, overwrite: true);
            _namesInDoubt.TryAdd(to, File.Exists(kept) ? kept : null);
            _disk.Rename(from, to);
            _lasting[to] = _lasting.TryGetValue(from, out var bytes) ? bytes : File.ReadAllBytes(to);
            _lasting.Remove(from);
            _namesInDoubt.Remove(from);
        }
    }

    public void Delete(string path) => _disk.Delete(path);

    public bool Exists(string path) => _disk.Exists(path);

    public IReadOnlyList<string> Folders(string folder) => _disk.Folders(folder);

    public IReadOnlyList<string> List(string folder) => [.. _disk.List(folder).Where(path => !path.EndsWith(".before-rename", StringComparison.Ordinal))];

    /// <summary>The power goes: contents and names fall back to what was flushed.</summary>
    public void CutPower()
    {
        lock (_gate)
        {
            foreach (var (path, bytes) in _lasting.Where(file => File.Exists(file.Key)))
                File.WriteAllBytes(path, bytes);
            foreach (var (path, before) in _namesInDoubt)
            {
                File.Delete(path);
                if (before is not null)
                    File.Move(before, path);
            }

            _lasting.Clear();
            _namesInDoubt.Clear();
        }
    }

    private sealed class ForgetfulFile(ForgetfulDisk disk, string path, IDiskFile file) : IDiskFile
    {
        public long Length => file.Length;

        public void Write(ReadOnlySpan<byte> bytes, long offset) => file.Write(bytes, offset);

        public int Read(Span<byte> buffer, long offset) => file.Read(buffer, offset);

        public void SetLength(long length) => file.SetLength(length);

        public void Flush()
        {
            lock (disk._gate)
            {
                file.Flush();
                if (File.Exists(path))
                    disk._lasting[path] = File.ReadAllBytes(path);
            }
        }

        public void Dispose() => file.Dispose();
    }
}
