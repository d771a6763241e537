using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>The consignments, paged in every style that is in use, under <c>/v2/by/STYLE</c>.</summary>
public sealed class PagingStyles(StandInOptions options, Statistics statistics)
{
    private readonly ServedRows _served = new(options, statistics);
    private int _asked;

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/by/link-header", LinkHeaderAsync);
        routes.MapGet("/v2/by/page", PageAsync);
        routes.MapGet("/v2/by/offset", OffsetAsync);
        routes.MapGet("/v2/by/cursor-header", CursorHeaderAsync);
        routes.MapGet("/v2/by/key", KeyAsync);
        routes.MapPost("/v2/by/search", SearchAsync);
        routes.MapPost("/v2/by/form", FormAsync);
        routes.MapGet(
            "/v2/by/endless", context => HtmlPageWriter.WriteAsync(context, writer => Empty(writer, Guid.NewGuid().ToString("n"))));
        routes.MapGet("/v2/by/batches", BatchesAsync);
        routes.MapGet("/v2/by/echo", EchoAsync);
    }

    private async Task LinkHeaderAsync(HttpContext context)
    {
        var (first, size) = (HtmlPageWriter.Number(context, "from", 0), _served.Size(context));
        var end = _served.Serve(first, size);
        var here = $"{context.Request.Scheme}://{context.Request.Host}{context.Request.Path}";

        // As RFC 8288 allows: several links, parameters in quotes, commas inside.
        var links = $"<{here}?from=0&size={size}&tags=a,b>; rel=\"first start\"; title=\"first, or \\\"top\\\"\"";
        if (end < _served.All.Count)
            links += $", <{here}?from={end}&size={size}&tags=a,b>; title=\"next; see, below\"; REL=\"prefetch Next\"";
        context.Response.Headers.Link = links;
        await HtmlPageWriter.WriteAsync(context, writer => HtmlPageWriter.Rows(writer, _served.All, first, end));
    }

    // base=0|1: number of the first page. tell=pages|total|nothing. extra rows come in at the front with --quirk shifting.
    private async Task PageAsync(HttpContext context)
    {
        var (number, size, tell) = (
            HtmlPageWriter.Number(context, "page", -1), _served.Size(context), context.Request.Query["tell"].ToString());
        var first = (number - HtmlPageWriter.Number(context, "base", 1)) * size;
        if (first < 0 || (first > 0 && first >= _served.All.Count && tell.Length > 0))
        {
            await Problem.WriteAsync(context, 400, "bad_request", $"there is no page {number}");
            return;
        }

        await CountedAsync(context, first, size, tell);
    }

    private Task OffsetAsync(HttpContext context) =>
        CountedAsync(
            context,
            HtmlPageWriter.Number(context, "offset", 0) - HtmlPageWriter.Number(context, "base", 0),
            _served.Size(context, "limit"),
            context.Request.Query["tell"].ToString());

    private async Task CountedAsync(HttpContext context, int first, int size, string tell)
    {
        // One row more at the front after every few requests: what was at the end of a page comes again on the next.
        var shift = options.Has("shifting") ? Math.Min(3, Interlocked.Increment(ref _asked) / 4) : 0;
        first = Math.Max(0, first - shift);
        var end = _served.Serve(first, size);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WritePropertyName("items");
            HtmlPageWriter.Rows(writer, _served.All, Math.Min(first, end), end);
            if (tell == "pages")
                writer.WriteNumber("pages", (_served.All.Count + size - 1) / size);
            if (tell == "total")
                writer.WriteNumber("total", _served.All.Count + shift);
            if (tell == "more")
                writer.WriteBoolean("more", end < _served.All.Count);
            writer.WriteEndObject();
        });
    }

    private async Task CursorHeaderAsync(HttpContext context)
    {
        var cursor = context.Request.Headers["X-After"].ToString();
        var first = cursor.Length == 0 ? 0 : ListingPage.RowOf(cursor) ?? 0;
        var end = _served.Serve(first, _served.Size(context));
        if (end < _served.All.Count)
            context.Response.Headers["X-Next-Cursor"] = ListingPage.CursorFor(end);
        await HtmlPageWriter.WriteAsync(context, writer => HtmlPageWriter.Rows(writer, _served.All, first, end));
    }

    private async Task KeyAsync(HttpContext context)
    {
        var after = context.Request.Query["after"].ToString();
        var first = long.TryParse(after, out var id) ? (int)(id - ServedRows.FirstId) + 1 : 0;
        var end = _served.Serve(first, _served.Size(context));
        await HtmlPageWriter.WriteAsync(context, writer => HtmlPageWriter.Rows(writer, _served.All, first, end));
    }

    // A search whose body has the size, a filter and the cursor.
    private async Task SearchAsync(HttpContext context)
    {
        using var body = await JsonDocument.ParseAsync(context.Request.Body);
        var page = body.RootElement.GetProperty("page");
        var size = page.GetProperty("size");
        if (size.ValueKind != JsonValueKind.Number || body.RootElement.GetProperty("exact").ValueKind != JsonValueKind.True)
        {
            await Problem.WriteAsync(context, 400, "bad_request", "page.size must be a number, and exact true");
            return;
        }

        var first = page.TryGetProperty("after", out var after) && after.ValueKind == JsonValueKind.String
            ? ListingPage.RowOf(after.GetString()!) ?? 0
            : 0;
        var end = _served.Serve(first, size.GetInt32());
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WritePropertyName("found");
            HtmlPageWriter.Rows(writer, _served.All, first, end);
            writer.WriteString("after", end < _served.All.Count ? ListingPage.CursorFor(end) : null);
            writer.WriteEndObject();
        });
    }

    private static async Task FormAsync(HttpContext context)
    {
        var form = await context.Request.ReadFormAsync();
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartArray();
            writer.WriteStartObject();
            foreach (var (name, value) in form)
                writer.WriteString(name, value.ToString());
            writer.WriteEndObject();
            writer.WriteEndArray();
        });
    }

    private async Task BatchesAsync(HttpContext context)
    {
        var (first, size) = (HtmlPageWriter.Number(context, "from", 0), _served.Size(context));
        var end = _served.Serve(first, size);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WriteStartArray("batches");
            for (var row = first; row < end; row += 3)
            {
                writer.WriteStartObject();
                writer.WriteNumber("size", Math.Min(3, end - row));
                writer.WritePropertyName("rows");
                HtmlPageWriter.Rows(writer, _served.All, row, Math.Min(end, row + 3));
                writer.WriteEndObject();
            }

            writer.WriteEndArray();
            writer.WriteEndObject();
        });
    }

    // The request as it came: one row with its method, path, query and chosen headers.
    private static Task EchoAsync(HttpContext context) => HtmlPageWriter.WriteAsync(context, writer =>
    {
        writer.WriteStartArray();
        writer.WriteStartObject();
        writer.WriteString("path", context.Request.Path);
        writer.WriteString("query", context.Request.QueryString.Value);
        writer.WriteString("accept", context.Request.Headers.Accept.ToString());
        writer.WriteString("partner", context.Request.Headers["X-Partner"].ToString());
        writer.WriteString("secret_is_right", context.Request.Headers["X-Secret"].ToString().Length > 8 ? "yes" : "no");
        writer.WriteEndObject();
        writer.WriteEndArray();
    });

    private static void Empty(Utf8JsonWriter writer, string cursor)
    {
        writer.WriteStartObject();
        writer.WriteStartArray("items");
        writer.WriteEndArray();
        writer.WriteString("cursor", cursor);
        writer.WriteEndObject();
    }
}
