using System.Buffers;
using System.Text.Encodings.Web;
using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>Writes answers of listings that are shaped in other ways than the usual page.</summary>
internal static class HtmlPageWriter
{
    private static readonly JsonWriterOptions s_compact = new()
    {
        SkipValidation = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Answers with JSON.</summary>
    public static async Task WriteAsync(HttpContext context, Action<Utf8JsonWriter> write)
    {
        var page = new ArrayBufferWriter<byte>(64 * 1024);
        using (var writer = new Utf8JsonWriter(page, s_compact))
            write(writer);
        context.Response.ContentType = "application/json";
        context.Response.ContentLength = page.WrittenCount;
        await context.Response.BodyWriter.WriteAsync(page.WrittenMemory, context.RequestAborted);
    }

    /// <summary>Writes the rows of a listing as an array.</summary>
    public static void Rows(Utf8JsonWriter writer, IListing listing, int first, int end)
    {
        writer.WriteStartArray();
        for (var row = first; row < end; row++)
            listing.Write(writer, row);
        writer.WriteEndArray();
    }

    public static int Number(HttpContext context, string name, int otherwise) =>
        int.TryParse(context.Request.Query[name], out var number) ? number : otherwise;
}
