using System.Globalization;
using System.Text;

namespace Cursiva.StandIn.Listings;

/// <summary>Folders within folders, with files whose content can be fetched, by ranges as well.</summary>
public sealed class Folders(StandInOptions options, Statistics statistics)
{
    private const int FileSize = 200_000;

    private int _broken;

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/folders/{folder}/children", ChildrenAsync);
        routes.MapGet("/v2/files/{file}/content", ContentAsync);
    }

    // A folder's id is its way from the root, so that nothing has to be stored.
    private async Task ChildrenAsync(HttpContext context)
    {
        var folder = context.Request.RouteValues["folder"]!.ToString()!;
        var depth = folder == "root" ? 0 : folder.Split('-').Length;
        var seeded = new Seeded(options.Seed, folder.Sum(c => (long)c * 31) + depth);
        var count = 2 + seeded.Pick(1, 4);
        var (first, size) = (HtmlPageWriter.Number(context, "from", 0), 3);
        var end = Math.Min(count, first + size);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WriteStartArray("items");
            for (var i = first; i < end; i++)
            {
                var isFolder = depth < 4 && i % 2 == 0;
                var id = folder == "root" ? $"f{i}" : $"{folder}-f{i}";

                // A shortcut that leads back up.
                if (options.Has("folder-circle") && depth == 2 && i == 0)
                    id = folder.Split('-')[0];
                writer.WriteStartObject();
                writer.WriteString("id", isFolder ? id : id.Replace("-", ""));
                writer.WriteString("kind", isFolder ? "folder" : "file");
                writer.WriteString("name", isFolder ? $"folder {i}" : $"papers {i}.txt");
                if (!isFolder)
                    writer.WriteString("content", $"/v2/files/{id.Replace("-", "")}/content");
                writer.WriteEndObject();
            }

            writer.WriteEndArray();
            writer.WriteString("next", end < count ? $"{context.Request.Path}?from={end}" : null);
            writer.WriteEndObject();
        });
    }

    // break=N: the first N requests end in the middle.
    private async Task ContentAsync(HttpContext context)
    {
        var file = context.Request.RouteValues["file"]!.ToString()!;
        var line = Encoding.ASCII.GetBytes($"{file} of Brackwater Freight\n");
        var content = new byte[FileSize];
        for (var i = 0; i < content.Length; i++)
            content[i] = line[i % line.Length];

        var etag = $"\"{file}-1\"";
        context.Response.Headers.ETag = etag;
        context.Response.ContentType = "text/plain";
        var from = 0;
        var range = context.Request.Headers.Range.ToString();
        if (range.StartsWith("bytes=", StringComparison.Ordinal) && context.Request.Headers.IfRange == etag)
        {
            from = int.Parse(range[6..].TrimEnd('-'), CultureInfo.InvariantCulture);
            context.Response.StatusCode = 206;
            context.Response.Headers.ContentRange = $"bytes {from}-{FileSize - 1}/{FileSize}";
            statistics.RangeServed();
        }

        context.Response.ContentLength = FileSize - from;
        if (options.Has("files-break") && Interlocked.Increment(ref _broken) % 2 == 1)
        {
            await context.Response.Body.WriteAsync(content.AsMemory(from, (FileSize - from) / 2));
            await context.Response.Body.FlushAsync();
            await Task.Delay(20);
            context.Abort();
            return;
        }

        await context.Response.Body.WriteAsync(content.AsMemory(from));
    }
}
