using System.Collections.Concurrent;
using System.Globalization;
using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Listings;

/// <summary>
/// Exports of consignments: submitted, ready after a few questions, and downloaded in parts from another origin by signed addresses
/// that want no credentials.
/// </summary>
public sealed class Exports(StandInOptions options, Statistics statistics)
{
    private const int Parts = 3;

    private readonly Consignments _rows = new(options.Seed, options.Rows);
    private readonly ConcurrentDictionary<string, int> _questions = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, int> _downloads = new(StringComparer.Ordinal);
    private int _submitted;

    /// <summary>The second origin, once it is known.</summary>
    public string Elsewhere { get; set; } = "";

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapPost("/v2/exports", SubmitAsync);
        routes.MapGet("/v2/exports/{id}", AskAsync);
        routes.MapGet("/signed/{id}/{part}", (RequestDelegate)PartAsync);
    }

    private async Task SubmitAsync(HttpContext context)
    {
        var id = $"x{Interlocked.Increment(ref _submitted)}-{context.Request.Query["form"]}";
        statistics.ExportSubmitted();
        _questions[id] = 0;
        context.Response.StatusCode = 202;
        context.Response.Headers.Location = $"{context.Request.PathBase}/v2/exports/{id}";
        await JsonAnswer.WriteAsync(
            context,
            new JsonObject { ["id"] = id, ["links"] = new JsonObject { ["status"] = $"{context.Request.PathBase}/v2/exports/{id}" } });
    }

    private async Task AskAsync(HttpContext context)
    {
        var id = context.Request.RouteValues["id"]!.ToString()!;
        if (!_questions.ContainsKey(id))
        {
            await Problem.WriteAsync(context, 404, "no_such_export", "no export has this id");
            return;
        }

        var asked = _questions.AddOrUpdate(id, 1, (_, count) => count + 1);
        if (options.Has("export-fails") && asked > 1)
        {
            await JsonAnswer.WriteAsync(
                context, new JsonObject { ["id"] = id, ["state"] = "failed", ["message"] = "the export ran out of space" });
            return;
        }

        if (asked <= 2)
        {
            context.Response.StatusCode = 202;
            context.Response.Headers.RetryAfter = "1";
            await JsonAnswer.WriteAsync(context, new JsonObject { ["id"] = id, ["state"] = "preparing" });
            return;
        }

        if (id.EndsWith("see-other", StringComparison.Ordinal))
        {
            context.Response.StatusCode = 303;
            context.Response.Headers.Location = $"{Elsewhere}/signed/{id}/{Parts}?sig=s{asked}";
            return;
        }

        if (id.EndsWith("rows", StringComparison.Ordinal))
        {
            await context.Response.Body.WriteAsync(All(id), context.RequestAborted);
            return;
        }

        var parts = Enumerable.Range(0, Parts).Select(part => (part, bytes: Part(id, part))).Select(file => new JsonObject
        {
            ["url"] = $"{Elsewhere}/signed/{id}/{file.part}?sig=s{asked}",
            ["rows"] = (_rows.Count - file.part + Parts - 1) / Parts,
            ["bytes"] = file.bytes.Length,
            ["sha256"] = Convert.ToHexStringLower(SHA256.HashData(file.bytes)),
        });
        await JsonAnswer.WriteAsync(context, new JsonObject { ["id"] = id, ["state"] = "ready", ["parts"] = new JsonArray([.. parts]) });
    }

    private async Task PartAsync(HttpContext context)
    {
        var id = context.Request.RouteValues["id"]!.ToString()!;
        var part = int.Parse(context.Request.RouteValues["part"]!.ToString()!, CultureInfo.InvariantCulture);
        if (context.Request.Headers.ContainsKey("Authorization") || context.Request.Headers.ContainsKey("X-Partner"))
            statistics.CredentialsElsewhere();
        var bytes = part < Parts ? Part(id, part) : All(id);
        context.Response.ContentType = "application/octet-stream";
        context.Response.ContentLength = bytes.Length;
        await Task.Delay(options.Latency.Now, context.RequestAborted);

        // The first download of a part ends in the middle where that is asked for.
        if (options.Has("parts-break") && _downloads.AddOrUpdate($"{id}/{part}", 1, (_, count) => count + 1) == 1)
        {
            await context.Response.Body.WriteAsync(bytes.AsMemory(0, bytes.Length / 2));
            await context.Response.Body.FlushAsync();
            context.Abort();
            return;
        }

        await context.Response.Body.WriteAsync(bytes);
    }

    private byte[] All(string id) => [.. Enumerable.Range(0, Parts).SelectMany(part => Part(id, part))];

    // Gzip files behind each other are one (RFC 1952 section 2.2).
    private byte[] Part(string id, int part)
    {
        var csv = id.EndsWith("csv", StringComparison.Ordinal);
        var text = new StringBuilder(csv ? "id,reference,goods\r\n" : "");
        for (var row = part; row < _rows.Count; row += Parts)
            text.Append(csv ? CsvRow(_rows, row) : JsonRow(_rows, row) + "\n");
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Fastest, leaveOpen: true))
            gzip.Write(Encoding.UTF8.GetBytes(text.ToString()));
        return packed.ToArray();
    }

    private static string JsonRow(Consignments rows, int row)
    {
        using var stream = new MemoryStream();
        using (var writer = new Utf8JsonWriter(stream))
            rows.Write(writer, row);
        return Encoding.UTF8.GetString(stream.ToArray());
    }

    /// <summary>A row as a line of CSV.</summary>
    public static string CsvRow(Consignments rows, int row)
    {
        using var document = JsonDocument.Parse(JsonRow(rows, row));
        string Field(string name) => document.RootElement.GetProperty(name).ToString();
        return $"{Field("id")},{Field("reference")},\"{Field("goods").Replace("\"", "\"\"")}\"\r\n";
    }
}
