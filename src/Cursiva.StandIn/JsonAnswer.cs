using System.Text.Json.Nodes;

namespace Cursiva.StandIn;

/// <summary>Answers in JSON that is put together by hand: what is compiled ahead of time cannot look into classes.</summary>
internal static class JsonAnswer
{
    private const string MediaType = "application/json";

    public static IResult Of(JsonObject content) => Results.Text(content.ToJsonString(), MediaType);

    /// <summary>Writes an answer, under the content type that it has already or as JSON.</summary>
    public static Task WriteAsync(HttpContext context, JsonObject content)
    {
        context.Response.ContentType ??= MediaType;
        return context.Response.WriteAsync(content.ToJsonString(), context.RequestAborted);
    }
}
