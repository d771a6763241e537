using System.Text;

namespace Cursiva.StandIn.Access;

/// <summary>The token endpoint (RFC 6749 section 3.2), the keys and the metadata (RFC 8414).</summary>
public sealed class AuthorizationServer(StandInOptions options, TokenDesk desk, Statistics statistics)
{
    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapPost("/oauth2/token", TokenAsync);
        routes.MapGet("/oauth2/jwks", () => Results.Json(desk.KeySet()));
        routes.MapGet("/.well-known/oauth-authorization-server", (HttpRequest request) => Results.Json(new
        {
            issuer = Issuer(request),
            token_endpoint = Issuer(request) + "/oauth2/token",
            jwks_uri = Issuer(request) + "/oauth2/jwks",
            grant_types_supported = new[] { "client_credentials" },
            token_endpoint_auth_methods_supported = new[] { "client_secret_basic", "client_secret_post" },
        }));
        routes.MapPost("/odd/token/html", context => Odd.HtmlAsync(context, 200));
        routes.MapPost("/odd/token/failing", context => Problem.WriteAsync(context, 503, "down", "the sign-in service is being serviced"));
        routes.MapPost("/odd/token/empty", () => Results.Json(new { token_type = "Bearer" }));
    }

    private async Task TokenAsync(HttpContext context)
    {
        context.Response.Headers.CacheControl = "no-store";
        if (!context.Request.HasFormContentType)
        {
            await RefuseAsync(context, 400, "invalid_request", "the parameters must come as application/x-www-form-urlencoded");
            return;
        }

        var form = await context.Request.ReadFormAsync(context.RequestAborted);
        var (id, secret) = Client(context.Request.Headers.Authorization.ToString(), form);
        if (id != options.ClientId || secret != options.ClientSecret)
        {
            context.Response.Headers.WWWAuthenticate = "Basic realm=\"brackwater\"";
            await RefuseAsync(context, 401, "invalid_client", id == options.ClientId ? "the client secret is wrong" : "no such client");
            return;
        }

        if (form["grant_type"] != "client_credentials")
        {
            await RefuseAsync(context, 400, "unsupported_grant_type", $"grant_type '{form["grant_type"]}' is not offered");
            return;
        }

        var scope = form["scope"].ToString() is { Length: > 0 } asked ? asked : "consignments.read";
        if (scope.Split(' ').FirstOrDefault(name => name is not ("consignments.read" or "depots.read")) is { } unknown)
        {
            await RefuseAsync(context, 400, "invalid_scope", $"scope '{unknown}' is not known");
            return;
        }

        statistics.TokenIssued();
        await context.Response.WriteAsJsonAsync(new
        {
            access_token = desk.Issue(Issuer(context.Request), id, scope, DateTimeOffset.UtcNow),
            token_type = "Bearer",
            expires_in = (int)options.TokenLifetime.TotalSeconds,
            scope,
        });
    }

    private static string Issuer(HttpRequest request) => $"{request.Scheme}://{request.Host}";

    private static (string? Id, string? Secret) Client(string authorization, IFormCollection form)
    {
        if (!authorization.StartsWith("Basic ", StringComparison.OrdinalIgnoreCase))
            return (form["client_id"], form["client_secret"]);

        try
        {
            // RFC 6749 section 2.3.1: both halves are form-encoded before they are joined and base64 encoded.
            var pair = Encoding.UTF8.GetString(Convert.FromBase64String(authorization[6..])).Split(':', 2);
            return pair.Length == 2 ? (Decode(pair[0]), Decode(pair[1])) : (null, null);
        }
        catch (FormatException)
        {
            return (null, null);
        }
    }

    private static string Decode(string text) => Uri.UnescapeDataString(text.Replace('+', ' '));

    private static Task RefuseAsync(HttpContext context, int status, string error, string description)
    {
        context.Response.StatusCode = status;
        return context.Response.WriteAsJsonAsync(new { error, error_description = description });
    }
}
