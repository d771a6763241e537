using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn;

/// <summary>
/// An API that says back whatever it was sent, secrets included: in links to three pages, and in refusals, in the forms that servers
/// write such things in.
/// </summary>
internal static class Mirror
{
    private const int Pages = 3;

    public static Task AnswerAsync(HttpContext context)
    {
        var query = context.Request.Query;
        var page = int.TryParse(query["page"], out var number) ? number : 1;
        if (int.TryParse(query["status"], out var status))
            return RefuseAsync(context, status);
        var here = $"{context.Request.Scheme}://{context.Request.Host}{context.Request.Path}";
        var rest = string.Join(
            '&',
            context.Request.QueryString.Value!.TrimStart('?').Split('&').Where(
                part => !part.StartsWith("page=", StringComparison.Ordinal)));
        return JsonAnswer.WriteAsync(context, new JsonObject
        {
            ["items"] = new JsonArray(
                new JsonObject
                {
                    ["page"] = page,
                    ["key"] = Digest(query["key"].ToString()),
                    ["second"] = Digest(query["second"].ToString()),
                    ["header"] = Digest(context.Request.Headers["X-Key"].ToString()),
                }),
            ["next"] = page < Pages ? $"{here}?{rest}&page={page + 1}" : null,
        });
    }

    private static Task RefuseAsync(HttpContext context, int status)
    {
        var sent =
            $"{context.Request.Headers.Authorization} {context.Request.Headers["X-Key"]} {string.Join(' ', context.Request.Query.Select(pair => pair.Value))}";
        context.Response.StatusCode = status;
        context.Response.Headers.WWWAuthenticate =
            $"Bearer error=\"invalid_token\", error_description=\"{string.Concat(sent.Where(c => c is >= ' ' and < '\u007f' and not '"' and not '\\'))}\"";
        return JsonAnswer.WriteAsync(context, new JsonObject
        {
            ["code"] = "mirrored",
            ["was"] = sent,
            ["base64"] = Convert.ToBase64String(Encoding.UTF8.GetBytes(sent)),
            ["percent"] = Uri.EscapeDataString(sent).ToLowerInvariant(),
            ["html"] = System.Net.WebUtility.HtmlEncode(sent),
            ["link"] = $"https://help.example/?{context.Request.QueryString.Value?.TrimStart('?')}",
            ["steers"] = "\u001b[31m\u202Ered\u0007",
        });
    }

    private static string Digest(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..12];
}
