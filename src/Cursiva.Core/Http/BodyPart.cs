namespace Cursiva.Core.Http;

/// <summary>A piece of a body that is sent as it is read: bytes, or a part of a file.</summary>
public sealed record BodyPart
{
    private const int PieceSize = 1 << 17;

    private readonly byte[]? _bytes;
    private readonly string? _path;
    private readonly long _offset;

    private BodyPart(byte[]? bytes, string? path, long offset, long length) =>
        (_bytes, _path, _offset, Length) = (bytes, path, offset, length);

    /// <summary>Its length in bytes.</summary>
    public long Length { get; }

    /// <summary>Bytes.</summary>
    public static BodyPart Of(byte[] bytes) => new(bytes, null, 0, bytes.Length);

    /// <summary>A part of a file.</summary>
    /// <param name="offset">Its first byte.</param>
    public static BodyPart OfFile(string path, long offset, long length) => new(null, path, offset, length);

    /// <summary>Copies it to a stream.</summary>
    /// <exception cref="IOException">The file is shorter than it was.</exception>
    public async Task CopyToAsync(Stream target, CancellationToken cancel)
    {
        if (_bytes is not null)
        {
            await target.WriteAsync(_bytes, cancel);
            return;
        }

        await using var source = new FileStream(_path!, FileMode.Open, FileAccess.Read, FileShare.Read, bufferSize: 0, useAsync: false);
        source.Position = _offset;
        var piece = new byte[(int)Math.Min(PieceSize, Math.Max(Length, 1))];
        for (var left = Length; left > 0;)
        {
            var read = await source.ReadAsync(piece.AsMemory(0, (int)Math.Min(piece.Length, left)), cancel);
            if (read == 0)
                throw new IOException($"{_path} is shorter than it was");
            await target.WriteAsync(piece.AsMemory(0, read), cancel);
            left -= read;
        }
    }
}
