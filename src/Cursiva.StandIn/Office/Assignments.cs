using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Office;

/// <summary>Who has which role.</summary>
public sealed class Assignments(OfficeBook book, OfficeManner manner)
{
    private static readonly (string Id, string Name)[] s_people =
    [
        ("p-1", "night-clerk"),
        ("p-2", "depot-clerk"),
        ("p-3", "twin"),
        ("p-4", "twin"),
    ];

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/people", PeopleAsync);
        routes.MapPost("/v2/people/{id}/roles", AssignAsync);
    }

    private static Task PeopleAsync(HttpContext context) => JsonAnswer.WriteAsync(context, new JsonObject
    {
        ["items"] = new JsonArray(
            [.. s_people.Where(person => context.Request.Query["name"] is var name && (name.Count == 0 || person.Name == name)).Select(
                person => (JsonNode)new JsonObject { ["id"] = person.Id, ["name"] = person.Name })]),
    });

    private async Task AssignAsync(HttpContext context)
    {
        var body = await JsonNode.ParseAsync(context.Request.Body, cancellationToken: context.RequestAborted);
        if (!await manner.PassAsync(context))
            return;
        if (book.Assign(context.Request.RouteValues["id"]!.ToString()!, body!["role"]!.ToString()))
            await manner.AnswerAsync(context, 201, new JsonObject { ["role"] = body["role"]!.DeepClone() });
        else
            await Problem.WriteAsync(context, 409, "has_it", "the person has this role already");
    }
}
