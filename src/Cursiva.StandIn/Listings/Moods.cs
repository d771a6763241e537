namespace Cursiva.StandIn.Listings;

/// <summary>The consignments by page number from an API that cannot be believed, under <c>/v2/moods/MOOD</c>.</summary>
public sealed class Moods(StandInOptions options)
{
    private readonly Consignments _rows = new(options.Seed, options.Rows);
    private int _links;

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/moods/{mood}", context => AnswerAsync(context, context.Request.RouteValues["mood"]!.ToString()!));
    }

    // ignores-page: the first page, whatever is asked for. new-links: the same rows under ever new links. short: fewer rows than told.
    // hole: a page in the middle has none. error-with-200: null and an error. words: more is "Y" or "N". capped: a quarter of the rows
    // that are asked for.
    private async Task AnswerAsync(HttpContext context, string mood)
    {
        var size = HtmlPageWriter.Number(context, "size", options.PageSize);
        if (mood == "capped")
            size = Math.Max(1, size / 4);
        var page = mood is "ignores-page" or "new-links" ? 1 : HtmlPageWriter.Number(context, "page", 1);
        var first = Math.Min(_rows.Count, (page - 1) * size);
        var end = Math.Min(_rows.Count, first + size);
        if ((mood == "hole" && page == 2) || (mood == "short" && end == _rows.Count))
            end = first;
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            if (mood == "error-with-200" && page == 2)
            {
                writer.WriteNull("items");
                writer.WriteString("error", "the depot's ledger is being rebuilt");
            }
            else
            {
                writer.WritePropertyName("items");
                HtmlPageWriter.Rows(writer, _rows, first, end);
            }

            writer.WriteNumber("total", _rows.Count);
            if (mood == "words")
                writer.WriteString("more", end < _rows.Count ? "Y" : "N");
            if (mood == "new-links")
                writer.WriteString("next", $"/v2/moods/new-links?size={size}&turn={Interlocked.Increment(ref _links)}");
            writer.WriteEndObject();
        });
    }
}
