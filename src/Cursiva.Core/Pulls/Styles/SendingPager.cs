using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Sends values of a position with the first request: in its query, a header, its body or its path.</summary>
internal abstract class SendingPager(Paging paging) : Pager(paging)
{
    public sealed override AskedPage Ask(AskedPage first, string position)
    {
        var values = Values(position);
        var page = first;
        foreach (var (taker, raw) in Paging.Takers.Select((taker, place) => (taker, values[values.Count == 1 ? 0 : place])).Where(pair => pair.Item2 != "null"))
        {
            var text = JsonFind.TextOf(Encoding.UTF8.GetBytes(raw))!;
            page = taker.Kind switch
            {
                TakerKind.Parameter => page with { Parameters = [.. page.Parameters, new(taker.Name, text)] },
                TakerKind.Header => page with { Headers = [.. page.Headers, new(taker.Name, text)] },
                TakerKind.Body => page with { Body = WithPlace(page.Body!, JsonPointer.TryParse(taker.Name)!, JsonNode.Parse(raw)!) },
                TakerKind.Placeholder => page with { Placed = new Dictionary<string, string>(page.Placed) { [taker.Name] = text } },
            };
        }

        return page;
    }

    protected string Takers => string.Join(" and ", Paging.Takers.Select(taker => taker.Words));

    /// <summary>The values of a position, each as JSON.</summary>
    protected abstract IReadOnlyList<string> Values(string position);

    private static JsonNode WithPlace(JsonNode body, JsonPointer place, JsonNode value)
    {
        var whole = body.DeepClone();
        var at = whole;
        foreach (var segment in place.Segments.SkipLast(1))
            at = at[segment] ??= new JsonObject();
        at[place.Segments[^1]] = value;
        return whole;
    }
}
