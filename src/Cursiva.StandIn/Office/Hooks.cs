using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Office;

/// <summary>Addresses that whoever knows them may post a message to, as chat and incident tools give them.</summary>
public sealed class Hooks(OfficeBook book, OfficeManner manner)
{
    public void Map(IEndpointRouteBuilder routes) => routes.MapPost("/hooks/{secret}", SayAsync);

    private async Task SayAsync(HttpContext context)
    {
        if (context.Request.RouteValues["secret"]!.ToString() != "desk-channel-0815")
        {
            await Problem.WriteAsync(context, 404, "no_such_channel", "no channel has this address");
            return;
        }

        try
        {
            var message = await JsonNode.ParseAsync(context.Request.Body, cancellationToken: context.RequestAborted);
            if (!await manner.PassAsync(context))
                return;
            book.Say(message);
            await manner.AnswerAsync(context, 200, new JsonObject { ["ok"] = true });
        }
        catch (JsonException)
        {
            await Problem.WriteAsync(context, 400, "not_json", "the body is not JSON");
        }
    }
}
