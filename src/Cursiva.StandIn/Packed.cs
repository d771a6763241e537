using System.IO.Compression;

namespace Cursiva.StandIn;

/// <summary>Packs answers as a request asks with <c>packed=gzip|deflate|br</c>.</summary>
internal static class Packed
{
    public static async Task WriteAsync(HttpContext context, RequestDelegate next)
    {
        var coding = context.Request.Query["packed"].ToString();
        var body = context.Response.Body;
        using var whole = new MemoryStream();
        context.Response.Body = whole;
        await next(context);
        await context.Response.BodyWriter.FlushAsync();
        context.Response.Body = body;
        using var packed = new MemoryStream();
        using (Stream packer = coding switch
        {
            "gzip" => new GZipStream(packed, CompressionLevel.Fastest, leaveOpen: true),
            "br" => new BrotliStream(packed, CompressionLevel.Fastest, leaveOpen: true),
            _ => new ZLibStream(packed, CompressionLevel.Fastest, leaveOpen: true),
        })
        {
            packer.Write(whole.ToArray());
        }

        context.Response.Headers.ContentEncoding = coding;
        context.Response.ContentLength = packed.Length;
        await context.Response.Body.WriteAsync(packed.ToArray());
    }
}
