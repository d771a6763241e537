using Cursiva.Core.Files;

namespace Cursiva.Core.Tests.Files;

/// <summary>A disk that takes so many bytes of reports and no more.</summary>
internal sealed class FullDisk(long room) : DiskDouble
{
    private long _left = room;

    public override IDiskFile Open(string path, bool shared = false) => new FullFile(this, base.Open(path, shared));

    public override IDiskFile Create(string path, bool shared = false) => new FullFile(this, base.Create(path, shared));

    public override long FreeBytes(string folder) => _left;

    private sealed class FullFile(FullDisk disk, IDiskFile file) : IDiskFile
    {
        public long Length => file.Length;

        public void Write(ReadOnlySpan<byte> bytes, long offset)
        {
            disk._left -= bytes.Length;
            if (disk._left < 0)
                throw new IOException("No space left on device");
            file.Write(bytes, offset);
        }

        public int Read(Span<byte> buffer, long offset) => file.Read(buffer, offset);

        public void SetLength(long length) => file.SetLength(length);

        public void Flush() => file.Flush();

        public void Dispose() => file.Dispose();
    }
}
