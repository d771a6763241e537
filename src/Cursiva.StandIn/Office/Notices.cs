using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Office;

/// <summary>
/// The notices of the exchange: documents on boards, found by title, made, changed with <c>If-Match</c> (RFC 9110 section 13.1.1) and
/// removed.
/// Titles may be there twice, unless the office wants them unique.
/// </summary>
public sealed class Notices(OfficeBook book, OfficeManner manner)
{
    private const int PageSize = 5;

    private static readonly string[] s_boards = ["Harbour", "Rail", "Customs"];

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/boards", BoardsAsync);
        routes.MapGet("/v2/notices", ListAsync);
        routes.MapPost("/v2/notices", CreateAsync);
        routes.MapGet("/v2/notices/{id:int}", ReadAsync);
        routes.MapMethods("/v2/notices/{id:int}", ["PUT", "PATCH"], ChangeAsync);
        routes.MapDelete("/v2/notices/{id:int}", RemoveAsync);
        routes.MapPut("/v2/notices/{id:int}/board", MoveAsync);
    }

    private static Task BoardsAsync(HttpContext context) => JsonAnswer.WriteAsync(context, new JsonObject
    {
        ["items"] = new JsonArray([.. s_boards.Select((name, place) => (JsonNode)new JsonObject { ["id"] = 10 + place, ["name"] = name })]),
    });

    // A search brings whatever begins like the title that was asked for, a page at a time.
    private Task ListAsync(HttpContext context)
    {
        var title = context.Request.Query["title"].ToString();
        var from = int.TryParse(context.Request.Query["from"], CultureInfo.InvariantCulture, out var place) ? place : 0;
        var found = book.Notices()
            .Where(notice => notice["title"]!.ToString().StartsWith(title, StringComparison.OrdinalIgnoreCase))
            .ToList();
        var answer = new JsonObject
        {
            ["items"] = new JsonArray([.. found.Skip(from).Take(PageSize).Select(notice => (JsonNode)notice.DeepClone())]),
            ["total"] = found.Count,
        };
        if (from + PageSize < found.Count)
            answer["links"] = new JsonObject { ["next"] = $"/v2/notices?title={Uri.EscapeDataString(title)}&from={from + PageSize}" };
        return JsonAnswer.WriteAsync(context, answer);
    }

    private async Task CreateAsync(HttpContext context)
    {
        var key = context.Request.Headers["Idempotency-Key"].ToString();
        if (await BodyAsync(context) is not { } body || !await manner.PassAsync(context))
            return;
        if (body["title"] is not JsonValue title || title.GetValueKind() != JsonValueKind.String || title.ToString().Length == 0)
        {
            await Problem.WriteAsync(context, 400, "title_missing", "a notice needs a title");
            return;
        }

        if (manner.Is("unique-titles") && book.Notices().Any(other => other["title"]!.ToString() == title.ToString()))
        {
            await Problem.WriteAsync(context, 409, "title_taken", "a notice with this title is there already");
            return;
        }

        var notice = book.Create(key, body);
        await manner.AnswerAsync(context, 201, notice);
    }

    private async Task ReadAsync(HttpContext context)
    {
        if (await FoundAsync(context) is not { } notice)
            return;
        context.Response.Headers.ETag = EtagOf(notice);
        await JsonAnswer.WriteAsync(context, notice);
    }

    private async Task ChangeAsync(HttpContext context)
    {
        if (await BodyAsync(context) is not { } body
            || await FoundAsync(context) is not { } notice
            || !await manner.PassAsync(context)
            || !await MatchesAsync(context, notice))
            return;
        await manner.AnswerAsync(context, 200, book.Change(notice, body, whole: context.Request.Method == "PUT"));
    }

    private async Task MoveAsync(HttpContext context)
    {
        if (await BodyAsync(context) is not { } body || await FoundAsync(context) is not { } notice || !await manner.PassAsync(context))
            return;
        if (body["board"] is not JsonValue board || board.GetValueKind() != JsonValueKind.Number)
        {
            await Problem.WriteAsync(context, 400, "board_wrong", "board must be a number");
            return;
        }

        await manner.AnswerAsync(context, 200, book.Change(notice, new JsonObject { ["board"] = board.DeepClone() }, whole: false));
    }

    private async Task RemoveAsync(HttpContext context)
    {
        if (await FoundAsync(context) is not { } notice || !await manner.PassAsync(context) || !await MatchesAsync(context, notice))
            return;
        book.Remove(notice);
        await manner.AnswerAsync(context, 204, null);
    }

    private async Task<bool> MatchesAsync(HttpContext context, JsonObject notice)
    {
        var wanted = context.Request.Headers.IfMatch.ToString();
        if ((wanted.Length == 0 || wanted == EtagOf(notice))
            && !(wanted.Length > 0
                && manner.Once("changed-meanwhile", () => book.Change(notice, new JsonObject { ["seen"] = true }, whole: false))))
            return true;
        await Problem.WriteAsync(context, 412, "changed_meanwhile", "the notice has been changed since");
        return false;
    }

    private async Task<JsonObject?> FoundAsync(HttpContext context)
    {
        if (book.Find(int.Parse(context.Request.RouteValues["id"]!.ToString()!, CultureInfo.InvariantCulture)) is { } notice)
            return notice;
        await Problem.WriteAsync(context, 404, "no_such_notice", "no notice has this id");
        return null;
    }

    private static async Task<JsonObject?> BodyAsync(HttpContext context)
    {
        try
        {
            if (await JsonNode.ParseAsync(context.Request.Body, cancellationToken: context.RequestAborted) is JsonObject body)
                return body;
        }
        catch (JsonException)
        {
            // Told below.
        }

        await Problem.WriteAsync(context, 400, "not_json", "the body is not a JSON object");
        return null;
    }

    private static string EtagOf(JsonObject notice) => $"\"v{notice["version"]}\"";
}
