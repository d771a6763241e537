using System.Collections.Concurrent;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.StandIn.Access;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Customs;

/// <summary>
/// The customs desk: an older authority in front of the exchange. <c>/customs/WAY/sign-in</c> agrees on a session key, and
/// <c>/customs/WAY/v2/…</c> is the exchange with every body encrypted under it.
/// </summary>
public sealed class CustomsDesk(StandInOptions options, TokenDesk tokens, DeskKeys keys, DeskManner manner)
{
    private const string Data = "data";

    private readonly ConcurrentDictionary<string, DeskSession> _sessions = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<(string Token, string Asked), PreparedAnswer> _prepared = new();
    private readonly DeskCipher _cipher = new(manner);
    private readonly DeskSeal _seal = new(keys, manner);

    public void Map(IEndpointRouteBuilder routes)
    {
        foreach (var way in Enum.GetValues<DeskWay>())
            routes.MapPost($"/customs/{way.ToString().ToLowerInvariant()}/sign-in", context => SignInAsync(context, way));
        routes.MapGet("/customs/desk.crt", () => keys.Desk);
        routes.MapGet("/customs/seal.crt", () => keys.Seal);
        routes.MapGet("/customs/keys", () => JsonAnswer.Of(keys.KeySet()));
    }

    /// <summary>Opens what comes for the exchange, and encrypts what goes back.</summary>
    public async Task PassAsync(HttpContext context, RequestDelegate next)
    {
        if (WayOf(context.Request.Path) is not { } way
            || !context.Request.Path.StartsWithSegments($"/customs/{way.ToString().ToLowerInvariant()}/v2", out var rest))
        {
            await next(context);
            return;
        }

        if (SessionOf(context) is not { } session || session.Way != way || session.Ends < DateTimeOffset.UtcNow || manner.Is("key-ended"))
        {
            await RefuseAsync(context, way, "KEY_ENDED", "sign in again: the session is not known, or its key has ended");
            return;
        }

        if (!await OpenAsync(context, session))
            return;
        var asked = $"{context.Request.Scheme}://{context.Request.Host}{context.Request.Path}{context.Request.QueryString}";
        if (_prepared.TryGetValue((session.Token, asked), out var prepared))
        {
            foreach (var (name, value) in prepared.Headers)
                context.Response.Headers[name] = value;
            await WriteAsync(context, prepared.Body, prepared.Type);
            return;
        }

        (context.Request.PathBase, context.Request.Path) = ($"/customs/{way.ToString().ToLowerInvariant()}", "/v2" + rest);
        context.Request.Headers.Authorization = "Bearer " + session.Token;
        var (outside, inside) = (context.Response.Body, new MemoryStream());
        context.Response.Body = inside;
        await next(context);
        context.Response.Body = outside;
        await AnswerAsync(context, session, asked, inside.ToArray());
    }

    private static DeskWay? WayOf(PathString path) =>
        path.Value!.Split('/') is ["", "customs", var name, ..] && Enum.TryParse<DeskWay>(name, ignoreCase: true, out var way) ? way : null;

    private DeskSession? SessionOf(HttpContext context)
    {
        var token = context.Request.Headers["X-Desk-Token"].ToString();
        if (token.Length == 0)
            token = context.Request.Headers.Authorization.ToString().Replace("Bearer ", "", StringComparison.Ordinal);
        return _sessions.GetValueOrDefault(token);
    }

    private static async Task<bool> OpenAsync(HttpContext context, DeskSession session)
    {
        using var read = new StreamReader(context.Request.Body);
        var text = await read.ReadToEndAsync(context.RequestAborted);
        if (text.Length == 0)
            return true;
        try
        {
            var sealedText = session.Way == DeskWay.Standard ? text : JsonNode.Parse(text)![Data]!.GetValue<string>();
            var body = DeskCipher.Open(session.Way, session.Key, sealedText);
            context.Request.Body = new MemoryStream(body);
            context.Request.ContentLength = body.Length;
            context.Request.ContentType = "application/json";
            return true;
        }
        catch (Exception error) when (error is CryptographicException or FormatException or JsonException or NullReferenceException or InvalidOperationException or IndexOutOfRangeException)
        {
            await RefuseAsync(context, session.Way, "NOT_OPENED", "the body could not be opened");
            return false;
        }
    }

    private async Task AnswerAsync(HttpContext context, DeskSession session, string asked, byte[] plain)
    {
        if (plain.Length == 0)
            return;
        if (manner.Is("clear") || context.Response.StatusCode >= 400)
        {
            await WriteAsync(context, plain, "application/json");
            return;
        }

        var isLines = context.Response.ContentType?.Contains("ndjson", StringComparison.Ordinal) == true;
        if (isLines)
        {
            var lines = Encoding.UTF8.GetString(plain).Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(
                line => Envelope(session, _cipher.Seal(session.Way, session.Key, Encoding.UTF8.GetBytes(line))));
            await WriteAsync(context, Encoding.UTF8.GetBytes(string.Join('\n', lines) + "\n"), "application/x-ndjson");
            return;
        }

        var body = Encoding.UTF8.GetBytes(Envelope(session, _cipher.Seal(session.Way, session.Key, plain)));
        if (session.Way == DeskWay.Standard)
            body = _seal.Sign(context.Response, asked, body);
        var type = session.Way == DeskWay.Standard ? "application/jose" : "application/json";
        if (options.Prerender && context.Request.Method == "GET")
            _prepared[(session.Token, asked)] = new PreparedAnswer(
                body,
                type,
                [.. PreparedAnswer.Signed.Select(name => KeyValuePair.Create(name, context.Response.Headers[name].ToString())).Where(
                    header => header.Value.Length > 0)]);
        await WriteAsync(context, body, type);
    }

    private static string Envelope(DeskSession session, string text) =>
        session.Way == DeskWay.Standard ? text : new JsonObject { ["status"] = 1, [Data] = text }.ToJsonString();

    private static async Task WriteAsync(HttpContext context, byte[] body, string type)
    {
        context.Response.ContentType = type;
        context.Response.ContentLength = body.Length;
        await context.Response.Body.WriteAsync(body, context.RequestAborted);
    }

    // The old way says everything with status 200.
    private static Task RefuseAsync(HttpContext context, DeskWay way, string code, string message)
    {
        context.Response.StatusCode = way == DeskWay.Old ? 200 : code == "KEY_ENDED" ? 401 : 400;
        return JsonAnswer.WriteAsync(
            context, new JsonObject { ["status"] = 0, ["error"] = new JsonObject { ["code"] = code, ["message"] = message } });
    }

    private async Task SignInAsync(HttpContext context, DeskWay way)
    {
        using var read = new StreamReader(context.Request.Body);
        var text = await read.ReadToEndAsync(context.RequestAborted);
        if (Opened(way, text) is not { } body || body["app_key"] is not { } appKey)
        {
            await RefuseAsync(context, way, "NOT_OPENED", "the sign-in could not be opened: was it encrypted for this environment?");
            return;
        }

        if (body["user_name"]?.ToString() != "brackwater" || body["password"]?.ToString() != options.ClientSecret)
        {
            await RefuseAsync(context, way, "UNKNOWN_USER", "user name or password is wrong");
            return;
        }

        var (fresh, session, token) = (
            Convert.FromBase64String(appKey.ToString()), RandomNumberGenerator.GetBytes(32), "desk-" + Guid.NewGuid().ToString("n"));
        var ends = DateTimeOffset.UtcNow + options.TokenLifetime;
        _sessions[token] = new DeskSession(
            way, "brackwater", session, tokens.IssueOpaque(options.ClientId, options.ClientId, "consignments.read"), ends);
        var wrapped = new DeskCipher(new DeskManner()).Seal(way, manner.Is("spoilt-key") ? SHA256.HashData(fresh) : fresh, session);
        var answer = way switch
        {
            DeskWay.Old => new JsonObject
            {
                ["status"] = 1,
                [Data] = new JsonObject
                {
                    ["token"] = token,
                    ["session_key"] = wrapped,
                    ["ends"] = ends.UtcDateTime.ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture),
                },
            },
            DeskWay.Middle => new JsonObject
            {
                ["status"] = 1,
                [Data] = _cipher.Seal(
                    way,
                    fresh,
                    Encoding.UTF8.GetBytes(
                        new JsonObject
                        {
                            ["token"] = token,
                            ["session_key"] = wrapped,
                            ["ends_in"] = (int)options.TokenLifetime.TotalSeconds,
                        }.ToJsonString())),
            },
            DeskWay.Standard => new JsonObject
            {
                ["access_token"] = token,
                ["token_type"] = "Bearer",
                ["expires_in"] = (int)options.TokenLifetime.TotalSeconds,
                ["session_key"] = wrapped,
            },
        };
        await JsonAnswer.WriteAsync(context, answer);
    }

    private JsonObject? Opened(DeskWay way, string text)
    {
        if (manner.Is("other-environment"))
            return null;
        try
        {
            switch (way)
            {
                case DeskWay.Old:
                    var body = JsonNode.Parse(text)!.AsObject();
                    byte[] Member(string name) => keys.Encryption.Decrypt(
                        Convert.FromBase64String(body[name]!.ToString()), RSAEncryptionPadding.Pkcs1);
                    return new JsonObject
                    {
                        ["user_name"] = body["user_name"]!.ToString(),
                        ["password"] = Encoding.UTF8.GetString(Member("password")),
                        ["app_key"] = Convert.ToBase64String(Member("app_key")),
                    };
                case DeskWay.Middle:
                    return JsonNode.Parse(
                        keys.Encryption.Decrypt(
                            Convert.FromBase64String(JsonNode.Parse(text)![Data]!.ToString()), RSAEncryptionPadding.OaepSHA1))!.AsObject();
                default:
                    var parts = text.Split('.');
                    var key = keys.Encryption.Decrypt(Base64UrlEncoder.DecodeBytes(parts[1]), RSAEncryptionPadding.OaepSHA256);
                    return JsonNode.Parse(DeskCipher.Open(way, key, text))!.AsObject();
            }
        }
        catch (Exception error) when (error is CryptographicException or FormatException or JsonException or NullReferenceException or InvalidOperationException or IndexOutOfRangeException)
        {
            return null;
        }
    }
}
