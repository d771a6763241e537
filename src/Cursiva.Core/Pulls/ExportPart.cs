using System.Globalization;

namespace Cursiva.Core.Pulls;

/// <summary>A part of an export, and what the API tells of it.</summary>
/// <param name="Rows">Its rows; null when it is not told.</param>
/// <param name="Bytes">Its bytes, compressed or not; null when it is not told.</param>
/// <param name="Sha256">Its digest in hex or base64; null when it is not told.</param>
internal sealed record ExportPart(Uri Address, long? Rows = null, long? Bytes = null, string? Sha256 = null)
{
    /// <summary>Compares what came with what was told.</summary>
    /// <param name="rows">Rows that came.</param>
    /// <param name="packed">The part as it came.</param>
    /// <param name="content">The part unpacked.</param>
    /// <exception cref="InvalidDataException">They differ.</exception>
    public void Check(long rows, MeasuredStream packed, MeasuredStream content)
    {
        if (Rows is { } told && told != rows)
            throw new InvalidDataException($"the API announced {Text(told)} rows, but {Text(rows)} came");
        if (Bytes is { } size && size != packed.Bytes && size != content.Bytes)
            throw new InvalidDataException(
                $"the API announced {Text(size)} bytes, but {Text(packed.Bytes)} came{(packed.Bytes == content.Bytes ? "" : $" ({Text(content.Bytes)} unpacked)")}");
        if (Sha256 is { } digest && !Is(digest, packed.Digest) && !Is(digest, content.Digest))
            throw new InvalidDataException(
                $"the API announced the SHA-256 {Secrets.OneLine.Of(digest)}, but the file has {Convert.ToHexStringLower(packed.Digest)}");
    }

    private static bool Is(string told, byte[] digest) =>
        told.Equals(Convert.ToHexString(digest), StringComparison.OrdinalIgnoreCase) || told == Convert.ToBase64String(digest);

    private static string Text(long number) => number.ToString("N0", CultureInfo.InvariantCulture);
}
