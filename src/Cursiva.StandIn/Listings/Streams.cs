using System.Buffers;
using System.Text;
using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>The consignments as one stream: JSON lines, one array, or an array of batches.</summary>
public sealed class Streams(StandInOptions options)
{
    private readonly Consignments _rows = new(options.Seed, options.Rows);
    private int _broken;

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/stream/lines", context => WriteAsync(context, "application/x-ndjson", "", "\n", "\n"));
        routes.MapGet("/v2/stream/array", context => WriteAsync(context, "application/json", " [\n", ",\n", "\n]\n"));
        routes.MapGet("/v2/stream/sequence", context => WriteAsync(context, "application/json-seq", "\u001e", "\n\u001e", "\n"));
        routes.MapGet("/v2/stream/csv", CsvAsync);
        routes.MapGet("/v2/stream/batches", context => WriteAsync(context, "application/json", "[{\"rows\":[", "]},{\"rows\":[", "]}]"));
    }

    // break=N: the first N requests end in the middle.
    private async Task WriteAsync(HttpContext context, string type, string begin, string between, string end)
    {
        context.Response.ContentType = type;
        var breaks = Interlocked.Increment(ref _broken) <= HtmlPageWriter.Number(context, "break", 0);
        var output = context.Response.BodyWriter;
        Text(output, begin);
        var scratch = new ArrayBufferWriter<byte>();
        using var writer = new Utf8JsonWriter(scratch);
        for (var row = 0; row < _rows.Count; row++)
        {
            if (row > 0)
                Text(output, between);
            scratch.ResetWrittenCount();
            writer.Reset();
            _rows.Write(writer, row);
            writer.Flush();
            output.Write(scratch.WrittenSpan);
            if (row % 500 == 499)
                await output.FlushAsync(context.RequestAborted);
            if (breaks && row == _rows.Count / 2)
            {
                await output.FlushAsync(context.RequestAborted);
                context.Abort();
                return;
            }
        }

        Text(output, end);
        await output.FlushAsync(context.RequestAborted);
    }

    private async Task CsvAsync(HttpContext context)
    {
        context.Response.ContentType = "text/csv";
        var text = new StringBuilder("id,reference,goods\r\n");
        for (var row = 0; row < _rows.Count; row++)
            text.Append(Exports.CsvRow(_rows, row));
        await context.Response.WriteAsync(text.ToString(), context.RequestAborted);
    }

    private static void Text(IBufferWriter<byte> output, string text) => output.Write(Encoding.UTF8.GetBytes(text));
}
