using System.Globalization;
using System.Text;

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
        routes.MapGet("/v2/odd/same-link", context => TextAsync(context, $$$"""{"items":[{"id":1}],"links":{"next":"http://{{{context.Request.Host}}}/v2/odd/same-link"}}"""));
        routes.MapGet("/v2/odd/foreign-link", context => TextAsync(context, $$$"""{"items":[{"id":1}],"links":{"next":"{{{context.Request.Query["to"]}}}"}}"""));
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
        // Waits for as long as the client does.
        routes.MapGet("/v2/odd/silent", context => Task.Delay(Timeout.Infinite, context.RequestAborted).ContinueWith(_ => { }, TaskScheduler.Default));
    }

    // Refuses in the words that it is given.
    private static Task RefuseAsync(HttpContext context)
    {
        var query = context.Request.Query;
        if (query["challenge"].ToString() is { Length: > 0 } challenge)
            context.Response.Headers.WWWAuthenticate = challenge;
        return Problem.WriteAsync(context, int.Parse(query["status"].ToString(), CultureInfo.InvariantCulture), "refused", query["says"].ToString());
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
