using Cursiva.Core.Files;

namespace Cursiva.Core.Tests.Files;

/// <summary>
/// A disk whose power is cut at one operation, whichever a test says. What was flushed stays. Of everything else any part may stay: each write
/// by itself, and each change of names by itself. Databases are left alone: they flush their own files.
/// </summary>
/// <param name="cutsAt">The number of the operation at which the power goes, from 1.</param>
/// <param name="seed">Which part of what was not flushed stays.</param>
internal sealed class PowerCutDisk(int cutsAt, int seed) : DiskDouble
{
    private readonly Lock _gate = new();
    private readonly Dictionary<string, Content> _names = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Content> _lastingNames = new(StringComparer.Ordinal);
    private readonly List<(string Folder, List<(string Path, Content? File)> Changes)> _pendingNames = [];
    private readonly HashSet<string> _touched = new(StringComparer.Ordinal);
    private int _done;

    /// <summary>Whether the power went.</summary>
    public bool IsCut => _done >= cutsAt;

    public override IDiskFile Open(string path, bool shared = false) => Opened(path, base.Open(path, shared));

    public override IDiskFile Create(string path, bool shared = false) => Opened(path, base.Create(path, shared));

    public override void Rename(string from, string to)
    {
        lock (_gate)
        {
            Do();
            var file = Known(from);
            Known(to);
            base.Rename(from, to);
            Change(to, [(to, file), (from, null)]);
        }
    }

    public override void Delete(string path)
    {
        lock (_gate)
        {
            if (!File.Exists(path))
                return;
            Do();
            Known(path);
            base.Delete(path);
            Change(path, [(path, null)]);
        }
    }

    public override void FlushFolder(string path)
    {
        lock (_gate)
        {
            Do();
            foreach (var (_, changes) in _pendingNames.Where(pending => pending.Folder == path))
                Apply(_lastingNames, changes);
            _pendingNames.RemoveAll(pending => pending.Folder == path);
        }
    }

    /// <summary>Puts on the machine's disk what is there after the power has come back.</summary>
    public void PowerOn()
    {
        var random = new Random(seed);
        foreach (var (_, changes) in _pendingNames)
        {
            if (random.Next(2) == 0)
                Apply(_lastingNames, changes);
        }

        foreach (var path in _touched)
            File.Delete(path);
        foreach (var (path, file) in _lastingNames)
        {
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            File.WriteAllBytes(path, file.AfterCut(random));
        }
    }

    private static void Apply(Dictionary<string, Content> names, List<(string Path, Content? File)> changes)
    {
        foreach (var (path, file) in changes)
        {
            if (file is null)
                names.Remove(path);
            else
                names[path] = file;
        }
    }

    private IDiskFile Opened(string path, IDiskFile file)
    {
        if (path.EndsWith(".db", StringComparison.Ordinal))
            return file;
        lock (_gate)
        {
            if (!_names.ContainsKey(path) && file.Length == 0 && !_touched.Contains(path))
            {
                Do();
                _touched.Add(path);
                Change(path, [(path, new Content([]))]);
            }

            return new CutFile(this, Known(path)!, file);
        }
    }

    // A file that was there before lasts as it was.
    private Content? Known(string path)
    {
        _touched.Add(path);
        if (!_names.ContainsKey(path) && File.Exists(path))
            _names[path] = _lastingNames[path] = new Content(File.ReadAllBytes(path));
        return _names.GetValueOrDefault(path);
    }

    private void Change(string path, List<(string Path, Content? File)> changes)
    {
        Apply(_names, changes);
        _pendingNames.Add((Path.GetDirectoryName(path)!, changes));
    }

    private void Do()
    {
        if (++_done >= cutsAt)
            throw new IOException("the power is gone");
    }

    private sealed class Content(byte[] lasting)
    {
        private readonly List<Func<byte[], byte[]>> _pending = [];
        private byte[] _lasting = lasting;

        public void Change(Func<byte[], byte[]> change) => _pending.Add(change);

        public void Flush()
        {
            _lasting = _pending.Aggregate(_lasting, (bytes, change) => change(bytes));
            _pending.Clear();
        }

        public byte[] AfterCut(Random random) => _pending.Where(_ => random.Next(2) == 0).Aggregate(_lasting, (bytes, change) => change(bytes));
    }

    private sealed class CutFile(PowerCutDisk disk, Content content, IDiskFile file) : IDiskFile
    {
        public long Length => file.Length;

        public void Write(ReadOnlySpan<byte> bytes, long offset)
        {
            lock (disk._gate)
            {
                disk.Do();
                var copy = bytes.ToArray();
                content.Change(before =>
                {
                    var after = new byte[Math.Max(before.Length, offset + copy.Length)];
                    before.CopyTo(after, 0);
                    copy.CopyTo(after, offset);
                    return after;
                });
                file.Write(bytes, offset);
            }
        }

        public int Read(Span<byte> buffer, long offset) => file.Read(buffer, offset);

        public void SetLength(long length)
        {
            lock (disk._gate)
            {
                disk.Do();
                content.Change(before =>
                {
                    Array.Resize(ref before, (int)length);
                    return before;
                });
                file.SetLength(length);
            }
        }

        public void Flush()
        {
            lock (disk._gate)
            {
                disk.Do();
                content.Flush();
                file.Flush();
            }
        }

        public void Dispose() => file.Dispose();
    }
}
