using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Access;

/// <summary>The endpoints of the authorization server: RFC 6749, 7009, 7662, 8414, 8628.</summary>
public sealed class AuthorizationServer(StandInOptions options, TokenDesk tokens, RefreshDesk refreshes, Statistics statistics)
{
    private static readonly string[] s_scopes = ["consignments.read", "depots.read", "offline_access"];

    private readonly ClientDesk _clients = new(options);
    private readonly DeviceDesk _devices = new(options);
    private int _asked;

    public void Map(IEndpointRouteBuilder routes)
    {
        var codes = new CodeDesk(options, _clients);
        routes.MapPost(
            "/oauth2/token",
            (RequestDelegate)(context => AnswerAsync(context, (parameters, client) => Token(context, parameters, client, codes))));
        routes.MapPost(
            "/tenants/{tenant}/oauth2/token",
            (RequestDelegate)(context => AnswerAsync(context, (parameters, client) => Token(context, parameters, client, codes))));
        routes.MapGet("/oauth2/authorize", codes.AuthorizeAsync);
        routes.MapPost(
            "/oauth2/device",
            (RequestDelegate)(context => AnswerAsync(
                context, (parameters, client) => _devices.Begin(client, parameters["scope"], Here(context.Request)))));
        routes.MapGet(
            "/oauth2/device/confirm", (string user_code) => _devices.Confirm(user_code) ? Results.Text("confirmed") : Results.NotFound());
        routes.MapPost(
            "/oauth2/revoke", (RequestDelegate)(context => AnswerAsync(context, (parameters, _) => Revoke(parameters["token"]))));
        routes.MapPost(
            "/oauth2/introspect",
            (RequestDelegate)(
                context => AnswerAsync(context, (parameters, _) => tokens.Explain(parameters["token"], DateTimeOffset.UtcNow))));
        routes.MapPost("/oauth2/refresh-tokens", (string person) => refreshes.Begin(options.ClientId, person, "consignments.read"));
        routes.MapDelete("/oauth2/refresh-tokens", refreshes.RevokeAll);
        routes.MapGet("/oauth2/jwks", () => JsonAnswer.Of(tokens.KeySet()));
        routes.MapGet("/.well-known/oauth-authorization-server", (HttpRequest request) => Metadata(request));
        routes.MapGet(ResourceMetadata, (HttpRequest request) => Resource(request));
        OddTokens.Map(routes);
    }

    /// <summary>Where the API says who issues its tokens (RFC 9728).</summary>
    public const string ResourceMetadata = "/.well-known/oauth-protected-resource";

    private IResult Resource(HttpRequest request) => options.Has("no-metadata") ? Results.NotFound() : JsonAnswer.Of(new JsonObject
    {
        ["resource"] = Here(request) + "/v2",
        ["authorization_servers"] = new JsonArray(Here(request)),
        ["scopes_supported"] = new JsonArray("consignments.read", "depots.read"),
    });

    private IResult Metadata(HttpRequest request) => options.Has("no-metadata") ? Results.NotFound() : JsonAnswer.Of(new JsonObject
    {
        ["issuer"] = options.Has("metadata-of-another") ? "https://other.example" : Here(request),
        ["token_endpoint"] = Here(request) + "/oauth2/token",
        ["authorization_endpoint"] = Here(request) + "/oauth2/authorize",
        ["device_authorization_endpoint"] = Here(request) + "/oauth2/device",
        ["revocation_endpoint"] = Here(request) + "/oauth2/revoke",
        ["introspection_endpoint"] = Here(request) + "/oauth2/introspect",
        ["jwks_uri"] = Here(request) + "/oauth2/jwks",
        ["authorization_response_iss_parameter_supported"] = true,
        ["grant_types_supported"] = new JsonArray(
            "client_credentials", "authorization_code", "refresh_token", "password", AssertionDesk.Grant, DeviceDesk.Grant),
        ["token_endpoint_auth_methods_supported"] = new JsonArray(
            "client_secret_basic", "client_secret_post", "private_key_jwt", "tls_client_auth", "none"),
    });

    private async Task AnswerAsync(HttpContext context, Func<TokenParameters, Client, JsonObject> answer)
    {
        context.Response.Headers.CacheControl = "no-store";
        statistics.TokenAsked();
        if (options.ClockAhead != TimeSpan.Zero)
            context.Response.Headers.Date = (DateTimeOffset.UtcNow + options.ClockAhead).ToString("R");
        try
        {
            var parameters = await TokenParameters.ReadAsync(context, options.Has("json-body"));

            // Half on the way here and half on the way back, where what was decided is not known to the client yet.
            await Task.Delay(options.AnswersAfter / 2, CancellationToken.None);
            var answered = answer(parameters, _clients.Check(context, parameters));
            await Task.Delay(options.AnswersAfter / 2, CancellationToken.None);
            if (options.Has("content-type-text"))
                context.Response.ContentType = "text/plain";
            await JsonAnswer.WriteAsync(context, answered);
        }
        catch (RefusedException refused)
        {
            if (refused.Status == 401)
                context.Response.Headers.WWWAuthenticate = "Basic realm=\"brackwater\"";
            context.Response.StatusCode = refused.Status;
            context.Response.Headers["X-Correlation-Id"] = context.TraceIdentifier;
            await JsonAnswer.WriteAsync(context, new JsonObject { ["error"] = refused.Error, ["error_description"] = refused.Message });
        }
    }

    private JsonObject Token(HttpContext context, TokenParameters parameters, Client client, CodeDesk codes)
    {
        var grant = parameters["grant_type"];
        var known = new[]
        {
            "client_credentials",
            "refresh_token",
            "authorization_code",
            "password",
            AssertionDesk.Grant,
            DeviceDesk.Grant,
        };
        if (!known.Contains(grant) || options.Has("grant-unknown"))
            throw new RefusedException("unsupported_grant_type", $"grant_type '{grant}' is not offered");
        if (!client.Grants.Contains(grant) || options.Has("grant-not-allowed"))
            throw new RefusedException("unauthorized_client", $"this client may not use grant_type '{grant}'");
        switch (grant)
        {
            case "authorization_code":
                var (person, granted, offline) = codes.Redeem(parameters, client);
                return Issue(context, client.Id, person, granted, offline ? refreshes.Begin(client.Id, person, granted) : null);
            case DeviceDesk.Grant:
                var (who, what) = _devices.Poll(parameters["device_code"], client);
                return Issue(context, client.Id, who, what, refreshes.Begin(client.Id, who, what));
            case "refresh_token":
                var (successor, subject, scope) = refreshes.Use(parameters["refresh_token"], client.Id);
                return Issue(context, client.Id, subject, scope, successor.Length > 0 ? successor : null);
            case "password":
                if (parameters["username"] != "night-clerk" || parameters["password"] != options.PersonPassword)
                    throw new RefusedException("invalid_grant", "name or password is wrong");
                return Issue(context, client.Id, "night-clerk", Scope(parameters, client), null);
            case AssertionDesk.Grant:
                var onBehalf = _clients.CheckGrant(parameters["assertion"], context);
                return Issue(context, client.Id, onBehalf, Scope(parameters, client), null);
            default:
                return Issue(context, client.Id, client.Id, Scope(parameters, client), null);
        }
    }

    private string Scope(TokenParameters parameters, Client client)
    {
        if (ClientDesk.TenantOf(client.Id) is { } tenant
            && Listings.Tenants.RowOf(tenant) is { } row
            && Listings.Tenants.HasNotApproved(row))
            throw new RefusedException("unauthorized_client", $"tenant {tenant} has not approved this application");
        if (options.Has("consent-missing") || (options.Has("consent-late") && Interlocked.Increment(ref _asked) < 3))
            throw new RefusedException("consent_required", "the application's permissions have not been approved by an administrator");
        var scope = parameters["scope"].Length > 0 ? parameters["scope"] : "consignments.read";
        return scope.Split(' ').FirstOrDefault(name => !s_scopes.Contains(name)) is { } unknown
            ? throw new RefusedException("invalid_scope", $"scope '{unknown}' is not known")
            : scope;
    }

    private JsonObject Issue(HttpContext context, string client, string subject, string scope, string? refresh)
    {
        statistics.TokenIssued();
        var token = options.Has("opaque")
            ? tokens.IssueOpaque(client, subject, scope)
            : tokens.Issue(Here(context.Request), client, subject, scope, DateTimeOffset.UtcNow);
        var answer = new JsonObject { ["token_type"] = options.Has("type-upper-case") ? "BEARER" : "Bearer" };
        if (options.Has("token-elsewhere"))
            answer["data"] = new JsonObject { ["session"] = token, ["account"] = 4711 };
        else
            answer["access_token"] = token;
        if (!options.Has("expires-missing"))
            answer["expires_in"] = options.Has("expires-text")
                ? ((int)options.TokenLifetime.TotalSeconds).ToString()
                : (int)options.TokenLifetime.TotalSeconds;
        if (!options.Has("scope-missing"))
            answer["scope"] = options.Has("scope-less") ? "consignments.read" : scope;
        if (refresh is not null && !options.Has("no-refresh"))
            answer["refresh_token"] = refresh;
        return answer;
    }

    private JsonObject Revoke(string token)
    {
        refreshes.Revoke(token);
        tokens.Revoke(token);
        return [];
    }

    private static string Here(HttpRequest request) => $"{request.Scheme}://{request.Host}";
}
