using System.Globalization;
using System.Text;
using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>The consignments in shapes that fewer APIs have, under <c>/v2/by/SHAPE</c>.</summary>
public sealed class Shapes(StandInOptions options, Statistics statistics)
{
    private readonly ServedRows _served = new(options, statistics);

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
        routes.MapGet("/v2/by/utf-16", context => RecodedAsync(context, Encoding.Unicode, "application/json; charset=utf-16"));
        routes.MapGet("/v2/by/mislabelled", context => RecodedAsync(context, Encoding.UTF8, "text/html; charset=utf-8"));
    }

    private Task PathAsync(HttpContext context)
    {
        var (first, size) = (
            (int.Parse(context.Request.RouteValues["number"]!.ToString()!, CultureInfo.InvariantCulture) - 1) * _served.Size(context),
            _served.Size(context));
        return _served.ItemsAsync(context, first, size, (writer, _) => writer.WriteNumber("total", _served.All.Count));
    }

    // The cursor is an object, and has to come back as one.
    private async Task ObjectCursorAsync(HttpContext context)
    {
        using var body = await JsonDocument.ParseAsync(context.Request.Body);
        var first = body.RootElement.TryGetProperty("after", out var after) ? after.GetProperty("row").GetInt32() : 0;
        await _served.ItemsAsync(context, first, _served.Size(context), (writer, end) =>
        {
            if (end >= _served.All.Count)
                return;
            writer.WriteStartObject("after");
            writer.WriteNumber("row", end);
            writer.WriteString("depot", "Northquay");
            writer.WriteEndObject();
        });
    }

    private Task CursorAsync(HttpContext context, Action<Utf8JsonWriter, int> next) =>
        _served.ItemsAsync(context, HtmlPageWriter.Number(context, "after", 0), _served.Size(context), (writer, end) =>
        {
            if (end < _served.All.Count)
                next(writer, end);
        });

    // Both parts of the cursor have to come back: one in the query, one in a header.
    private async Task TwoCursorsAsync(HttpContext context)
    {
        var (row, check) = (HtmlPageWriter.Number(context, "row", 0), context.Request.Headers["X-Check"].ToString());
        if (row > 0 && check != (row * 7).ToString(CultureInfo.InvariantCulture))
        {
            await Problem.WriteAsync(context, 400, "bad_cursor", "row and X-Check do not go together");
            return;
        }

        await _served.ItemsAsync(context, row, _served.Size(context), (writer, end) =>
        {
            writer.WriteStartObject("next");
            if (end < _served.All.Count)
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
            first = _served.All.FirstSince(DateTimeOffset.Parse(time, CultureInfo.InvariantCulture));
            var id = long.Parse(context.Request.Query["id"].ToString(), CultureInfo.InvariantCulture);
            first = Math.Max(first, (int)(id - ServedRows.FirstId) + 1);
        }

        await _served.ItemsAsync(context, first, _served.Size(context), (_, _) => { });
    }

    // Even rows in one array, odd ones in another.
    private async Task SeveralAsync(HttpContext context)
    {
        var first = HtmlPageWriter.Number(context, "after", 0);
        var end = _served.Serve(first, _served.Size(context));
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            foreach (var (name, odd) in new[] { ("added", 0), ("changed", 1) })
            {
                writer.WriteStartArray(name);
                for (var row = first; row < end; row++)
                {
                    if (row % 2 == odd)
                        _served.All.Write(writer, row);
                }

                writer.WriteEndArray();
            }

            if (end < _served.All.Count)
                writer.WriteNumber("next", end);
            writer.WriteEndObject();
        });
    }

    // Batches that have a number of their own beside their rows.
    private async Task DaysAsync(HttpContext context)
    {
        var end = _served.Serve(0, _served.All.Count);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartArray();
            for (var row = 0; row < end; row += 10)
            {
                writer.WriteStartObject();
                writer.WriteNumber("batch", row / 10);
                writer.WritePropertyName("rows");
                HtmlPageWriter.Rows(writer, _served.All, row, Math.Min(end, row + 10));
                writer.WriteEndObject();
            }

            writer.WriteEndArray();
        });
    }

    // ids=4,5,6 or id=4&id=5: these rows.
    private async Task IdsAsync(HttpContext context)
    {
        var ids = context.Request.Query["id"]
            .SelectMany(id => id!.Split(','))
            .Select(id => (int)(long.Parse(id, CultureInfo.InvariantCulture) - ServedRows.FirstId))
            .ToList();
        if (ids.Count > 50)
        {
            await Problem.WriteAsync(context, 400, "too_many", "50 ids are the most");
            return;
        }

        statistics.RowsServed(ids.Count);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartArray();
            ids.ForEach(row => _served.All.Write(writer, row));
            writer.WriteEndArray();
        });
    }

    private async Task ValuesAsync(HttpContext context)
    {
        var end = _served.Serve(0, _served.All.Count);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartArray();
            for (var row = 0; row < end; row++)
                writer.WriteNumberValue(ServedRows.FirstId + row);
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
            writer.WriteString("href", $"/v2/by/links?size={_served.Size(context)}&after={place}");
            writer.WriteEndObject();
        }

        writer.WriteEndArray();
    });

    // tell=total|pages in headers; otherwise behind=404|204 is the answer behind the last page.
    private async Task CountedAsync(HttpContext context)
    {
        var (first, size, tell) = (
            (HtmlPageWriter.Number(context, "page", 1) - 1) * _served.Size(context),
            _served.Size(context),
            context.Request.Query["tell"].ToString());
        if (tell == "total")
            context.Response.Headers["X-Total-Count"] = _served.All.Count.ToString(CultureInfo.InvariantCulture);
        if (tell == "pages")
            context.Response.Headers["X-Page-Count"] = ((_served.All.Count + size - 1) / size).ToString(CultureInfo.InvariantCulture);
        if (first < _served.All.Count)
            await _served.ItemsAsync(context, first, size, (_, _) => { });
        else if (context.Request.Query["behind"] == "204")
            context.Response.StatusCode = 204;
        else
            await Problem.WriteAsync(context, 404, "no_such_page", "there is no such page");
    }

    // Rows booked from a time up to another, and never more than cap of them.
    private Task WindowAsync(HttpContext context)
    {
        var query = context.Request.Query;
        var first = _served.All.FirstSince(DateTimeOffset.Parse(query["from"].ToString(), CultureInfo.InvariantCulture));
        var behind = _served.All.FirstSince(DateTimeOffset.Parse(query["to"].ToString(), CultureInfo.InvariantCulture));
        return _served.ItemsAsync(context, first, Math.Min(behind - first, HtmlPageWriter.Number(context, "cap", 10_000)), (_, _) => { });
    }

    // The whole listing, unless the client has it already (RFC 9110 section 13.1.2).
    private async Task UnchangedAsync(HttpContext context)
    {
        var tag = $"\"{options.Seed}-{_served.All.Count}\"";
        context.Response.Headers.ETag = tag;
        if (context.Request.Headers.IfNoneMatch == tag)
            context.Response.StatusCode = 304;
        else
            await _served.ItemsAsync(context, 0, _served.All.Count, (_, _) => { });
    }

    // JSON in another encoding, or under another content type, than JSON has (RFC 8259 section 8.1).
    private async Task RecodedAsync(HttpContext context, Encoding encoding, string type)
    {
        var end = _served.Serve(0, _served.All.Count);
        using var rows = new MemoryStream();
        using (var writer = new Utf8JsonWriter(rows))
            HtmlPageWriter.Rows(writer, _served.All, 0, end);
        context.Response.ContentType = type;
        await context.Response.Body.WriteAsync(encoding.GetBytes(Encoding.UTF8.GetString(rows.ToArray())), context.RequestAborted);
    }
}
