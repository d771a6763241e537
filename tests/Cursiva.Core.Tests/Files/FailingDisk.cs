using Cursiva.Core.Files;

namespace Cursiva.Core.Tests.Files;

/// <summary>A disk of which one operation fails, once.</summary>
/// <param name="fails">The number of the operation, from 1; 0 for none.</param>
/// <param name="reason">Why, as the system says it.</param>
internal sealed class FailingDisk(int fails, string reason = "Input/output error") : DiskDouble
{
    private int _done;

    /// <summary>Operations so far.</summary>
    public int Done => _done;

    /// <summary>What happens just before the operation fails.</summary>
    public Action Meanwhile { get; set; } = () => { };

    /// <summary>The operation that failed; null while none has.</summary>
    public string? Failed { get; private set; }

    public override IDiskFile Open(string path, bool shared = false)
    {
        Count("open", path);
        return new FailingFile(this, path, base.Open(path, shared));
    }

    public override IDiskFile Create(string path, bool shared = false)
    {
        Count("create", path);
        return new FailingFile(this, path, base.Create(path, shared));
    }

    public override void Rename(string from, string to)
    {
        Count("rename", to);
        base.Rename(from, to);
    }

    public override void FlushFolder(string path)
    {
        Count("flush folder", path);
        base.FlushFolder(path);
    }

    public override void CreateFolder(string path, bool shared = false)
    {
        Count("create folder", path);
        base.CreateFolder(path, shared);
    }

    public override void Delete(string path)
    {
        Count("delete", path);
        base.Delete(path);
    }

    private void Count(string what, string path)
    {
        if (Interlocked.Increment(ref _done) != fails)
            return;
        Failed = $"{what} {Path.GetFileName(path)}";
        Meanwhile();
        throw new IOException(reason);
    }

    private sealed class FailingFile(FailingDisk disk, string path, IDiskFile file) : IDiskFile
    {
        public long Length => file.Length;

        public void Write(ReadOnlySpan<byte> bytes, long offset)
        {
            disk.Count("write", path);
            file.Write(bytes, offset);
        }

        public int Read(Span<byte> buffer, long offset) => file.Read(buffer, offset);

        public void SetLength(long length)
        {
            disk.Count("set length", path);
            file.SetLength(length);
        }

        public void Flush()
        {
            disk.Count("flush", path);
            file.Flush();
        }

        public void Dispose() => file.Dispose();
    }
}
