using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn;

/// <summary>Answers that no API should give and some do.</summary>
public static class Odd
{
    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/odd/html", context => HtmlAsync(context, 200));
        routes.MapGet("/v2/odd/not-json", context => TextAsync(context, """{"items":[{"id":1},{"id":2,}]}"""));
        routes.MapGet("/v2/odd/cut-off", context => TextAsync(context, """{"items":[{"id":1},{"id":"""));
        routes.MapGet("/v2/odd/no-rows", context => TextAsync(context, """{"rows":[{"id":1}],"count":1}"""));
        routes.MapGet("/v2/odd/rows-not-array", context => TextAsync(context, """{"items":{"id":1}}"""));
        routes.MapGet("/v2/odd/numbers", context => TextAsync(context, """{"items":[1,2,3]}"""));
        routes.MapGet(
            "/v2/odd/same-link",
            context => TextAsync(
                context, $$$"""{"items":[{"id":1}],"links":{"next":"http://{{{context.Request.Host}}}/v2/odd/same-link"}}"""));
        routes.MapGet(
            "/v2/odd/foreign-link",
            context => TextAsync(context, $$$"""{"items":[{"id":1}],"links":{"next":"{{{context.Request.Query["to"]}}}"}}"""));
        routes.MapGet("/v2/odd/mirror", Mirror.AnswerAsync);
        routes.MapGet("/v2/odd/redirect", context =>
        {
            context.Response.Redirect(context.Request.Query["to"].ToString());
            return Task.CompletedTask;
        });
        routes.MapGet("/v2/open", context => TextAsync(context, """{"id":"anyone"}"""));
        routes.MapGet("/v2/open/refuse", RefuseAsync);
        routes.MapGet("/v2/odd/refuse", RefuseAsync);
        routes.MapGet("/v2/odd/exact", context => TextAsync(context, ExactRows));
        routes.MapGet("/v2/odd/status/{status}", (HttpContext context, string status) =>
            Problem.WriteAsync(context, int.Parse(status, CultureInfo.InvariantCulture), "refused", "refused on purpose"));
        routes.MapGet(
            "/v2/odd/rows/one",
            context => TextAsync(context, """{ "profile": { "id": 7, "name": "Brackwater" }, "links": { "next": null } }"""));
        routes.MapGet(
            "/v2/odd/rows/values",
            context => TextAsync(context, """{"depots":{"D1":{"name":"Northquay"},"D2":{"name":"Low \u0022Ferry\u0022"},"D\u00e9":42}}"""));
        routes.MapGet(
            "/v2/odd/names", context => TextAsync(context, """[{"a.b":1,"a/b":2,"a~b":3,"a b":4,"A":5,"a":6,"":7,"twice":1,"twice":2}]"""));
        routes.MapGet(
            "/v2/odd/kinds",
            context => TextAsync(
                context,
                """[{"id":1,"v":1},{"id":2,"v":"1"},{"id":3,"v":null},{"id":4},{"id":5,"v":{"n":[1,{"m":1.50}]}},{"id":6,"v":""},{"id":7,"v":1E+2},{"id":8,"v":"line\nbreak \ud83d\ude80"}]"""));
        routes.MapGet(
            "/v2/odd/deep",
            context => TextAsync(context, $$"""{"items":[{"id":1,"deep":{{new string('[', 90)}}1{{new string(']', 90)}}}]}"""));
        routes.MapGet("/v2/odd/not-utf8", async context =>
        {
            context.Response.ContentType = "application/json";
            await context.Response.Body.WriteAsync((byte[])[.. "{\"items\":[{\"id\":\""u8, 0xC3, 0x28, .. "\"}]}"u8]);
        });
        routes.MapGet("/v2/odd/large", context => TextAsync(context, $$"""{"items":[{"id":"{{new string('x', 3 * 1024 * 1024)}}"}]}"""));
        routes.MapGet("/v2/odd/expired/{position}", (HttpContext context, string position) => position == "first"
            ? TextAsync(context, """{"items":[{"id":1}],"next":"/v2/odd/expired/gone"}""")
            : Problem.WriteAsync(context, 410, "cursor_expired", "this cursor is too old"));
        routes.Map("/v2/odd/sent", SentAsync);

        // Waits for as long as the client does.
        routes.MapGet(
            "/v2/odd/silent",
            context => Task.Delay(Timeout.Infinite, context.RequestAborted).ContinueWith(_ => { }, TaskScheduler.Default));
    }

    // Says back what was sent.
    private static async Task SentAsync(HttpContext context)
    {
        using var reader = new StreamReader(context.Request.Body, Encoding.UTF8);
        await JsonAnswer.WriteAsync(context, new JsonObject
        {
            ["method"] = context.Request.Method,
            ["type"] = context.Request.ContentType,
            ["body"] = await reader.ReadToEndAsync(context.RequestAborted),
        });
    }

    // Refuses in the words that it is given.
    private static Task RefuseAsync(HttpContext context)
    {
        var query = context.Request.Query;
        if (query["challenge"].ToString() is { Length: > 0 } challenge)
            context.Response.Headers.WWWAuthenticate = challenge;
        return Problem.WriteAsync(
            context, int.Parse(query["status"].ToString(), CultureInfo.InvariantCulture), "refused", query["says"].ToString());
    }

    public static Task HtmlAsync(HttpContext context, int status)
    {
        context.Response.StatusCode = status;
        context.Response.ContentType = "text/html; charset=utf-8";
        return context.Response.WriteAsync("<!doctype html><html><title>Sign in</title><body>Please sign in to Brackwater.</body></html>");
    }

    /// <summary>Values that programs like to change on the way.</summary>
    private const string ExactRows = """
        { "items" : [
          {"id":9007199254740993,"price":1.10,"long":123456789012345678901234567890.123456789,"tiny":1e-7,"code":"0012","empty":"","none":null,"note":"a \"quoted\", line\nbreak"},
          {"id":9223372036854775807,"price":20.00,"long":1,"tiny":0.5,"code":"7","empty":"x","none":null,"note":"caf\u00e9 \ud83d\ude80"}
        ], "links": { "next": null } }
        """;

    private static Task TextAsync(HttpContext context, string text)
    {
        context.Response.ContentType = "application/json";
        return context.Response.Body.WriteAsync(Encoding.UTF8.GetBytes(text)).AsTask();
    }
}
