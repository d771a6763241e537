namespace Cursiva.Core.Files;

/// <summary>An open file of an <see cref="IDisk"/>.</summary>
public interface IDiskFile : IDisposable
{
    /// <summary>Length in bytes.</summary>
    long Length { get; }

    /// <summary>Writes all of the bytes, from the offset on.</summary>
    void Write(ReadOnlySpan<byte> bytes, long offset);

    /// <summary>Reads up to the length of <paramref name="buffer"/>; returns the number of bytes, 0 at the end.</summary>
    int Read(Span<byte> buffer, long offset);

    /// <summary>Cuts the file, or extends it with zeros.</summary>
    void SetLength(long length);

    /// <summary>Returns once everything written is durable (fsync).</summary>
    void Flush();
}
