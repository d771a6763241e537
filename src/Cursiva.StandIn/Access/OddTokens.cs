using System.Globalization;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Access;

/// <summary>Token endpoints that answer as no token endpoint should, and some do.</summary>
internal static class OddTokens
{
    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapPost("/odd/token/html", context => Odd.HtmlAsync(context, 200));
        routes.MapPost("/odd/token/failing", context => Problem.WriteAsync(context, 503, "down", "the sign-in service is being serviced"));
        routes.MapPost("/odd/token/empty", () => JsonAnswer.Of(new JsonObject { ["token_type"] = "Bearer" }));
        routes.MapPost("/odd/token/text", () => Results.Text("all is well"));
        routes.MapPost("/odd/token/moved", context =>
        {
            context.Response.Redirect(context.Request.Query["to"].ToString());
            return Task.CompletedTask;
        });

        // Refuses in the words that it is given.
        routes.MapPost("/odd/token/refuse", context =>
        {
            var query = context.Request.Query;
            context.Response.StatusCode = int.Parse(query["status"].ToString(), CultureInfo.InvariantCulture);
            return JsonAnswer.WriteAsync(
                context,
                new JsonObject
                {
                    ["error"] = query["error"].ToString(),
                    ["error_description"] = query["says"].ToString(),
                    ["correlation_id"] = "c-0815",
                });
        });
    }
}
