using System.Globalization;
using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>The consignments in shapes that fewer APIs have, under <c>/v2/by/SHAPE</c>.</summary>
public sealed class Shapes(StandInOptions options, Statistics statistics)
{
    private const long FirstId = 4_100_000_000_000_000_000;

    private readonly Consignments _rows = new(options.Seed, options.Rows);

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/by/path/{number}", PathAsync);
        routes.MapPost("/v2/by/object-cursor", ObjectCursorAsync);
        routes.MapGet("/v2/by/number-cursor", context => CursorAsync(context, (writer, end) => writer.WriteNumber("next", end)));
        routes.MapGet("/v2/by/two-cursors", TwoCursorsAsync);
        routes.MapGet("/v2/by/two-keys", TwoKeysAsync);
        routes.MapGet("/v2/by/several", SeveralAsync);
        routes.MapGet("/v2/by/days", DaysAsync);
        routes.MapGet("/v2/by/ids", IdsAsync);
        routes.MapGet("/v2/by/values", ValuesAsync);
        routes.MapGet("/v2/by/links", LinksAsync);
        routes.MapGet("/v2/by/counted-in-headers", CountedAsync);
        routes.MapGet("/v2/by/window", WindowAsync);
        routes.MapGet("/v2/by/unchanged", UnchangedAsync);
    }

    private int Size(HttpContext context) => PageWriter.Number(context, "size", options.PageSize);

    private Task PathAsync(HttpContext context)
    {
        var (first, size) = ((int.Parse(context.Request.RouteValues["number"]!.ToString()!, CultureInfo.InvariantCulture) - 1) * Size(context), Size(context));
        return ItemsAsync(context, first, size, (writer, _) => writer.WriteNumber("total", _rows.Count));
    }

    // The cursor is an object, and has to come back as one.
    private async Task ObjectCursorAsync(HttpContext context)
    {
        using var body = await JsonDocument.ParseAsync(context.Request.Body);
        var first = body.RootElement.TryGetProperty("after", out var after) ? after.GetProperty("row").GetInt32() : 0;
        await ItemsAsync(context, first, Size(context), (writer, end) =>
        {
            if (end >= _rows.Count)
                return;
            writer.WriteStartObject("after");
            writer.WriteNumber("row", end);
            writer.WriteString("depot", "Northquay");
            writer.WriteEndObject();
        });
    }

    private Task CursorAsync(HttpContext context, Action<Utf8JsonWriter, int> next) =>
        ItemsAsync(context, PageWriter.Number(context, "after", 0), Size(context), (writer, end) =>
        {
            if (end < _rows.Count)
                next(writer, end);
        });

    // Both parts of the cursor have to come back: one in the query, one in a header.
    private async Task TwoCursorsAsync(HttpContext context)
    {
        var (row, check) = (PageWriter.Number(context, "row", 0), context.Request.Headers["X-Check"].ToString());
        if (row > 0 && check != (row * 7).ToString(CultureInfo.InvariantCulture))
        {
            await Problem.WriteAsync(context, 400, "bad_cursor", "row and X-Check do not go together");
            return;
        }

        await ItemsAsync(context, row, Size(context), (writer, end) =>
        {
            writer.WriteStartObject("next");
            if (end < _rows.Count)
            {
                writer.WriteNumber("row", end);
                writer.WriteNumber("check", end * 7);
            }

            writer.WriteEndObject();
        });
    }

    // Rows behind a time and an id; many rows may have one time.
    private async Task TwoKeysAsync(HttpContext context)
    {
        var first = 0;
        if (context.Request.Query["time"].ToString() is { Length: > 0 } time)
        {
            first = _rows.FirstSince(DateTimeOffset.Parse(time, CultureInfo.InvariantCulture));
            var id = long.Parse(context.Request.Query["id"].ToString(), CultureInfo.InvariantCulture);
            first = Math.Max(first, (int)(id - FirstId) + 1);
        }

        await ItemsAsync(context, first, Size(context), (_, _) => { });
    }

    // Even rows in one array, odd ones in another.
    private async Task SeveralAsync(HttpContext context)
    {
        var first = PageWriter.Number(context, "after", 0);
        var end = Serve(first, Size(context));
        await PageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            foreach (var (name, odd) in new[] { ("added", 0), ("changed", 1) })
            {
                writer.WriteStartArray(name);
                for (var row = first; row < end; row++)
                {
                    if (row % 2 == odd)
                        _rows.Write(writer, row);
                }

                writer.WriteEndArray();
            }

            if (end < _rows.Count)
                writer.WriteNumber("next", end);
            writer.WriteEndObject();
        });
    }

    // Batches that have a number of their own beside their rows.
    private async Task DaysAsync(HttpContext context)
    {
        var end = Serve(0, _rows.Count);
        await PageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartArray();
            for (var row = 0; row < end; row += 10)
            {
                writer.WriteStartObject();
                writer.WriteNumber("batch", row / 10);
                writer.WritePropertyName("rows");
                PageWriter.Rows(writer, _rows, row, Math.Min(end, row + 10));
                writer.WriteEndObject();
            }

            writer.WriteEndArray();
        });
    }

    // ids=4,5,6 or id=4&id=5: these rows.
    private async Task IdsAsync(HttpContext context)
    {
        var ids = context.Request.Query["id"].SelectMany(id => id!.Split(',')).Select(id => (int)(long.Parse(id, CultureInfo.InvariantCulture) - FirstId)).ToList();
        if (ids.Count > 50)
        {
            await Problem.WriteAsync(context, 400, "too_many", "50 ids are the most");
            return;
        }

        statistics.RowsServed(ids.Count);
        await PageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartArray();
            ids.ForEach(row => _rows.Write(writer, row));
            writer.WriteEndArray();
        });
    }

    private async Task ValuesAsync(HttpContext context)
    {
        var end = Serve(0, _rows.Count);
        await PageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartArray();
            for (var row = 0; row < end; row++)
                writer.WriteNumberValue(FirstId + row);
            writer.WriteEndArray();
        });
    }

    private Task LinksAsync(HttpContext context) => CursorAsync(context, (writer, end) =>
    {
        writer.WriteStartArray("links");
        foreach (var (relation, place) in new[] { ("self", "0"), ("next", end.ToString(CultureInfo.InvariantCulture)) })
        {
            writer.WriteStartObject();
            writer.WriteString("rel", relation);
            writer.WriteString("href", $"/v2/by/links?size={Size(context)}&after={place}");
            writer.WriteEndObject();
        }

        writer.WriteEndArray();
    });

    // tell=total|pages in headers; otherwise behind=404|204 is the answer behind the last page.
    private async Task CountedAsync(HttpContext context)
    {
        var (first, size, tell) = ((PageWriter.Number(context, "page", 1) - 1) * Size(context), Size(context), context.Request.Query["tell"].ToString());
        if (tell == "total")
            context.Response.Headers["X-Total-Count"] = _rows.Count.ToString(CultureInfo.InvariantCulture);
        if (tell == "pages")
            context.Response.Headers["X-Page-Count"] = ((_rows.Count + size - 1) / size).ToString(CultureInfo.InvariantCulture);
        if (first < _rows.Count)
            await ItemsAsync(context, first, size, (_, _) => { });
        else if (context.Request.Query["behind"] == "204")
            context.Response.StatusCode = 204;
        else
            await Problem.WriteAsync(context, 404, "no_such_page", "there is no such page");
    }

    // Rows booked from a time up to another, and never more than cap of them.
    private Task WindowAsync(HttpContext context)
    {
        var query = context.Request.Query;
        var first = _rows.FirstSince(DateTimeOffset.Parse(query["from"].ToString(), CultureInfo.InvariantCulture));
        var behind = _rows.FirstSince(DateTimeOffset.Parse(query["to"].ToString(), CultureInfo.InvariantCulture));
        return ItemsAsync(context, first, Math.Min(behind - first, PageWriter.Number(context, "cap", 10_000)), (_, _) => { });
    }

    // The whole listing, unless the client has it already (RFC 9110 section 13.1.2).
    private async Task UnchangedAsync(HttpContext context)
    {
        var tag = $"\"{options.Seed}-{_rows.Count}\"";
        context.Response.Headers.ETag = tag;
        if (context.Request.Headers.IfNoneMatch == tag)
            context.Response.StatusCode = 304;
        else
            await ItemsAsync(context, 0, _rows.Count, (_, _) => { });
    }

    private async Task ItemsAsync(HttpContext context, int first, int size, Action<Utf8JsonWriter, int> beside)
    {
        var end = Serve(first, size);
        await PageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WritePropertyName("items");
            PageWriter.Rows(writer, _rows, Math.Min(first, end), end);
            beside(writer, end);
            writer.WriteEndObject();
        });
    }

    private int Serve(int first, int size)
    {
        var end = (int)Math.Min(_rows.Count, (long)first + size);
        statistics.RowsServed(Math.Max(0, end - first));
        return Math.Max(first, end);
    }
}
