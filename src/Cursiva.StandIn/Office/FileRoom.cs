using System.Collections.Concurrent;
using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Office;

/// <summary>
/// Files of the office, put whole (PUT), as a form (POST, RFC 7578) or in pieces (PUT with Content-Range) to an address on another origin
/// that
/// needs no credentials. Their content is counted and hashed, not kept.
/// </summary>
public sealed class FileRoom(OfficeBook book, OfficeManner manner, Statistics statistics)
{
    private readonly ConcurrentDictionary<string, (string Name, long At, IncrementalHash Hash)> _pieces = new(StringComparer.Ordinal);
    private int _opened;

    /// <summary>The second origin, once it is known.</summary>
    public string Elsewhere { get; set; } = "";

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapPut("/v2/drawer/{name}", PutAsync);
        routes.MapGet("/v2/drawer", ListAsync);
        routes.MapDelete("/v2/drawer/{name}", RemoveAsync);
        routes.MapPost("/v2/drawer", FormAsync);
        routes.MapPost("/v2/drawer/{name}/pieces", OpenAsync);
        routes.MapPut("/pieces/{id}", (RequestDelegate)PieceAsync);
    }

    private async Task PutAsync(HttpContext context)
    {
        if (!await manner.PassAsync(context))
            return;
        var (length, digest) = await ReadAsync(context.Request.Body);
        var file = new JsonObject
        {
            ["bytes"] = length,
            ["sha256"] = digest,
            ["type"] = context.Request.ContentType,
            ["digest"] = context.Request.Headers["Content-Digest"].ToString(),
        };
        book.Put(context.Request.RouteValues["name"]!.ToString()!, file);
        await manner.AnswerAsync(
            context, 201, new JsonObject { ["name"] = context.Request.RouteValues["name"]!.ToString(), ["bytes"] = length });
    }

    private async Task FormAsync(HttpContext context)
    {
        if (!await manner.PassAsync(context))
            return;
        var form = await context.Request.ReadFormAsync(context.RequestAborted);
        foreach (var file in form.Files)
        {
            await using var stream = file.OpenReadStream();
            var (length, digest) = await ReadAsync(stream);
            book.Put(
                file.FileName,
                new JsonObject
                {
                    ["bytes"] = length,
                    ["sha256"] = digest,
                    ["type"] = file.ContentType,
                    ["field"] = file.Name,
                    ["fields"] = new JsonObject(form.Select(field => KeyValuePair.Create(field.Key, (JsonNode?)field.Value.ToString()))),
                });
        }

        await manner.AnswerAsync(context, 201, new JsonObject { ["files"] = form.Files.Count });
    }

    private Task ListAsync(HttpContext context)
    {
        var name = context.Request.Query["name"].ToString();
        return JsonAnswer.WriteAsync(
            context,
            new JsonObject
            {
                ["items"] = book.File(name) is { } file
                    ? new JsonArray(new JsonObject { ["name"] = name, ["bytes"] = file["bytes"]?.DeepClone() })
                    : new JsonArray(),
            });
    }

    private async Task RemoveAsync(HttpContext context)
    {
        if (!await manner.PassAsync(context))
            return;
        if (book.Drop(context.Request.RouteValues["name"]!.ToString()!))
            context.Response.StatusCode = 204;
        else
            await Problem.WriteAsync(context, 404, "no_such_file", "no file has this name");
    }

    private async Task OpenAsync(HttpContext context)
    {
        var id = $"u{Interlocked.Increment(ref _opened)}";
        _pieces[id] = (context.Request.RouteValues["name"]!.ToString()!, 0, IncrementalHash.CreateHash(HashAlgorithmName.SHA256));
        await JsonAnswer.WriteAsync(context, new JsonObject { ["id"] = id, ["link"] = $"{Elsewhere}/pieces/{id}?signature=for-{id}" });
    }

    // bytes 0-99/1000 brings a piece; bytes */1000 asks how far it is. 308 with Range says what is there, 201 that it is whole.
    private async Task PieceAsync(HttpContext context)
    {
        if (context.Request.Headers.Authorization.Count > 0)
            statistics.CredentialsElsewhere();
        var id = context.Request.RouteValues["id"]!.ToString()!;
        if (!_pieces.TryGetValue(id, out var upload) || context.Request.Query["signature"] != $"for-{id}")
        {
            await Problem.WriteAsync(context, 404, "no_such_upload", "this address is not good any more");
            return;
        }

        var range = context.Request.Headers.ContentRange.ToString().Replace("bytes ", "", StringComparison.Ordinal).Split('/');
        var total = long.Parse(range[1], CultureInfo.InvariantCulture);
        if (range[0] != "*")
        {
            var first = long.Parse(range[0].Split('-')[0], CultureInfo.InvariantCulture);
            if (first != upload.At)
            {
                await Problem.WriteAsync(context, 416, "not_next", $"the next byte is {upload.At}");
                return;
            }

            var buffer = new byte[1 << 16];
            int read;
            while ((read = await context.Request.Body.ReadAsync(buffer)) > 0)
            {
                upload.Hash.AppendData(buffer, 0, read);
                upload.At += read;
            }

            _pieces[id] = upload;
            if (manner.Once("lose-one-piece", context.Abort))
                return;
        }

        if (upload.At < total)
        {
            context.Response.StatusCode = 308;
            if (upload.At > 0)
                context.Response.Headers.Range = $"bytes=0-{upload.At - 1}";
            return;
        }

        if (range[0] != "*" || book.File(upload.Name) is null)
            book.Put(
                upload.Name, new JsonObject { ["bytes"] = upload.At, ["sha256"] = Convert.ToHexStringLower(upload.Hash.GetCurrentHash()) });
        await manner.AnswerAsync(context, 201, new JsonObject { ["name"] = upload.Name });
    }

    private static async Task<(long Length, string Digest)> ReadAsync(Stream stream)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var buffer = new byte[1 << 16];
        var length = 0L;
        int read;
        while ((read = await stream.ReadAsync(buffer)) > 0)
        {
            hash.AppendData(buffer, 0, read);
            length += read;
        }

        return (length, Convert.ToHexStringLower(hash.GetHashAndReset()));
    }
}
