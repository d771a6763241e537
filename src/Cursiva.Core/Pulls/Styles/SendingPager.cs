using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Sends values of a position with the first request: in its query, a header, its body or its path.</summary>
internal abstract class SendingPager(Paging paging) : Pager(paging)
{
    public sealed override string WayOn => string.Join(" and ", Paging.Targets.Select(target => target.Noun));

    public sealed override AskedPage Ask(AskedPage first, string position)
    {
        var values = Values(position);
        var page = first;
        foreach (var (target, raw) in Paging.Targets.Select((target, place) => (target, values[values.Count == 1 ? 0 : place])).Where(
            pair => pair.Item2 != "null"))
        {
            var text = JsonFind.TextOf(Encoding.UTF8.GetBytes(raw))!;
            page = target.Kind switch
            {
                PositionTargetKind.Parameter => page with { Parameters = [.. page.Parameters, new(target.Name, text)] },
                PositionTargetKind.Header => page with { Headers = [.. page.Headers, new(target.Name, text)] },
                PositionTargetKind.Body => page with
                {
                    Body = WithPlace(page.Body!, JsonPointer.TryParse(target.Name)!, JsonNode.Parse(raw)!),
                },
                PositionTargetKind.Placeholder => page with
                {
                    Placed = new Dictionary<string, string>(page.Placed) { [target.Name] = text },
                },
            };
        }

        return page;
    }

    protected string Targets => string.Join(" and ", Paging.Targets.Select(target => target.Words));

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
