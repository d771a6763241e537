using System.IO.Compression;

namespace Cursiva.Core.Http;

/// <summary>Content codings (RFC 9110 section 8.4.1).</summary>
public static class Packing
{
    /// <summary>The codings that are asked for.</summary>
    public const string Accepted = "gzip, deflate, br";

    /// <summary>The content without its codings, which were applied in the order given.</summary>
    public static Stream Unpack(Stream content, IEnumerable<string> codings) =>
        codings.Reverse().Aggregate(content, (stream, coding) => coding.ToLowerInvariant() switch
        {
            "gzip" or "x-gzip" => new GZipStream(stream, CompressionMode.Decompress),
            "br" => new BrotliStream(stream, CompressionMode.Decompress),

            // What is called deflate is the format of RFC 1950.
            "deflate" => new ZLibStream(stream, CompressionMode.Decompress),
            _ => stream,
        });
}
