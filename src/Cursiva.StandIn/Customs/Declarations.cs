using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Customs;

/// <summary>The declarations that the desk took: each is given a registration, and a confirmation that the desk signed.</summary>
public sealed class Declarations(DeskKeys keys, DeskManner manner)
{
    private const int PageSize = 50;

    private readonly ConcurrentDictionary<string, JsonObject> _taken = new(StringComparer.Ordinal);
    private int _registrations;
    private readonly DeskSeal _seal = new(keys, manner);

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/declarations", ListAsync);
        routes.MapGet("/v2/declarations/{number}", ReadAsync);
        routes.MapPut("/v2/declarations/{number}", DeclareAsync);
    }

    private Task ListAsync(HttpContext context)
    {
        var from = int.TryParse(context.Request.Query["from"], CultureInfo.InvariantCulture, out var place) ? place : 0;
        var all = _taken.OrderBy(pair => pair.Key, StringComparer.Ordinal).ToList();
        var answer = new JsonObject
        {
            ["items"] = new JsonArray([.. all.Skip(from).Take(PageSize).Select(pair => (JsonNode)Told(pair.Value))]),
            ["total"] = all.Count,
        };
        if (from + PageSize < all.Count)
            answer["next"] = (from + PageSize).ToString(CultureInfo.InvariantCulture);
        return JsonAnswer.WriteAsync(context, answer);
    }

    private Task ReadAsync(HttpContext context) => _taken.TryGetValue(context.Request.RouteValues["number"]!.ToString()!, out var taken)
        ? JsonAnswer.WriteAsync(context, Told(taken))
        : Problem.WriteAsync(context, 404, "not_declared", "no declaration has this number");

    private async Task DeclareAsync(HttpContext context)
    {
        var number = context.Request.RouteValues["number"]!.ToString()!;
        JsonNode? body;
        try
        {
            body = await JsonNode.ParseAsync(context.Request.Body, cancellationToken: context.RequestAborted);
        }
        catch (JsonException)
        {
            body = null;
        }

        if (body is not JsonObject declared || declared["declarant"]?.ToString() != "brackwater" || declared["pieces"] is null)
        {
            await Problem.WriteAsync(
                context, 422, "not_complete", "a declaration has a declarant, which is the party that signed in, and pieces");
            return;
        }

        var taken = _taken.AddOrUpdate(
            number, _ => New(number, declared), (_, old) => New(number, declared, old["registration"]!.ToString()));
        await JsonAnswer.WriteAsync(context, Told(taken));
    }

    private JsonObject New(string number, JsonObject declared, string? registration = null) => new()
    {
        ["registration"] = registration ?? $"CD-{Interlocked.Increment(ref _registrations):D6}",
        ["number"] = number,
        ["pieces"] = declared["pieces"]!.DeepClone(),
        ["taken_at"] = DateTimeOffset.UtcNow.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture),
    };

    private JsonObject Told(JsonObject taken) => new()
    {
        ["number"] = taken["number"]!.ToString(),
        ["confirmation"] = _seal.Sign(taken.DeepClone().AsObject()),
    };
}
