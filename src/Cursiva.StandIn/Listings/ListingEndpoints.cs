using System.Buffers;
using System.Globalization;

namespace Cursiva.StandIn.Listings;

/// <summary>Serves the listings under <c>/v2</c>.</summary>
public sealed class ListingEndpoints(StandInOptions options, Statistics statistics, World world)
{
    private readonly Dictionary<(string Address, int First, int Size), byte[]> _rendered = [];

    public void Map(IEndpointRouteBuilder routes)
    {
        IListing[] listings =
        [
            new Carriers(options.Seed), new Depots(options.Seed), new Consignments(options.Seed, options.Rows, world),
        ];
        foreach (var listing in listings)
            routes.MapGet("/v2/" + listing.Name, context => ServeAsync(context, listing));
        routes.MapGet("/v2/nothing", context => ServeAsync(context, new Consignments(options.Seed, 0)));
    }

    /// <summary>Renders every page of the consignments now, for requests to the given address.</summary>
    public void Prerender(string address)
    {
        var listing = new Consignments(options.Seed, options.Rows);
        for (var first = 0; first < listing.Count; first += options.PageSize)
        {
            var page = new ArrayBufferWriter<byte>(options.PageSize * 300);
            ListingPage.Write(
                page, listing, first, options.PageSize, pretty: false, cursor => $"{address}/v2/consignments?cursor={cursor}");
            _rendered[(listing.Name, first, options.PageSize)] = page.WrittenSpan.ToArray();
        }
    }

    private async Task ServeAsync(HttpContext context, IListing listing)
    {
        var query = context.Request.Query;
        if (!TryNumber(query["size"], options.PageSize, out var size) || size is < 1 or > 10_000)
        {
            await Problem.WriteAsync(context, 400, "bad_request", "size must be a whole number from 1 to 10000");
            return;
        }

        var first = 0;
        if (query.TryGetValue("cursor", out var cursor))
        {
            if (ListingPage.RowOf(cursor.ToString()) is not { } row)
            {
                await Problem.WriteAsync(context, 410, "cursor_expired", "this cursor is not known any more; start from the first page");
                return;
            }

            first = row;
        }
        else if (query.TryGetValue("since", out var since)
            && DateTimeOffset.TryParse(since, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var time))
        {
            first = listing.FirstSince(time);
        }

        context.Response.ContentType = "application/json";
        if (world.Day == 0 && _rendered.TryGetValue((listing.Name, first, size), out var rendered))
        {
            statistics.RowsServed(Math.Min(size, listing.Count - first));
            context.Response.ContentLength = rendered.Length;
            await context.Response.BodyWriter.WriteAsync(rendered, context.RequestAborted);
            return;
        }

        var page = new ArrayBufferWriter<byte>(64 * 1024);
        var relative = query["links"] == "relative";
        var rows = ListingPage.Write(
            page, listing, first, size, pretty: query["shape"] == "pretty", next => NextLink(context.Request, next, relative));
        statistics.RowsServed(rows);
        context.Response.ContentLength = page.WrittenCount;
        await context.Response.BodyWriter.WriteAsync(page.WrittenMemory, context.RequestAborted);
    }

    private static string NextLink(HttpRequest request, string cursor, bool relative)
    {
        var kept = request.Query
            .Where(pair => pair.Key is not ("cursor" or "since"))
            .Select(pair => $"{Uri.EscapeDataString(pair.Key)}={Uri.EscapeDataString(pair.Value.ToString())}")
            .Append("cursor=" + cursor);
        return (relative ? "" : $"{request.Scheme}://{request.Host}") + request.PathBase + request.Path + "?" + string.Join('&', kept);
    }

    private static bool TryNumber(string? text, int otherwise, out int number)
    {
        number = otherwise;
        return text is null || int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out number);
    }
}
