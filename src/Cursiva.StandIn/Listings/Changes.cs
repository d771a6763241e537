using System.Globalization;
using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>
/// Vehicles, some of which change or go every day. Days pass when somebody asks for it: <c>POST /world/next-day</c>. Listed by
/// time of change (<c>/v2/vehicles?since=</c>), and by delta token (<c>/v2/vehicles/changes</c>).
/// </summary>
public sealed class Changes(StandInOptions options, World world)
{
    private const int Count = 60;
    private static readonly DateTimeOffset s_first = new(2026, 3, 2, 6, 0, 0, TimeSpan.Zero);

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/vehicles", SinceAsync);
        routes.MapGet("/v2/vehicles/changes", DeltaAsync);
    }

    private async Task SinceAsync(HttpContext context)
    {
        var since = DateTimeOffset.TryParse(
            context.Request.Query["since"], CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var time)
            ? time
            : DateTimeOffset.MinValue;
        await PageAsync(context, [.. Enumerable.Range(0, Count).Where(row => ChangedAt(row) >= since)], null);
    }

    private async Task DeltaAsync(HttpContext context)
    {
        var token = context.Request.Query["token"].ToString();
        if (options.Has("delta-expires") && token.Length > 0)
        {
            await Problem.WriteAsync(context, 410, "token_expired", "this token is too old; start over");
            return;
        }

        // A listing from the start tells what there is, and nothing of what is gone.
        var from = int.TryParse(token, out var day) ? day : -1;
        await PageAsync(
            context,
            [.. Enumerable.Range(0, Count).Where(row => LastChange(row) > from && (token.Length > 0 || !IsGone(row)))],
            $"{context.Request.Scheme}://{context.Request.Host}{context.Request.Path}?token={world.Day}");
    }

    private async Task PageAsync(HttpContext context, List<int> rows, string? delta)
    {
        var (first, size) = (HtmlPageWriter.Number(context, "from", 0), HtmlPageWriter.Number(context, "size", 25));
        var end = Math.Min(rows.Count, first + size);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WriteStartArray("items");
            foreach (var row in rows.Take(end).Skip(first))
                Write(writer, row);
            writer.WriteEndArray();
            writer.WriteStartObject("links");
            if (end < rows.Count)
                writer.WriteString(
                    "next",
                    $"{context.Request.Path}?{string.Join('&', context.Request.Query.Where(pair => pair.Key != "from").Select(pair => $"{pair.Key}={Uri.EscapeDataString(pair.Value!)}").Append($"from={end}"))}");
            else if (delta is not null)
                writer.WriteString("changes", delta);
            writer.WriteEndObject();
            writer.WriteEndObject();
        });
    }

    // Day 0 is when every vehicle was registered; each day one in nine changes.
    private int LastChange(int row)
    {
        for (var day = world.Day; day > 0; day--)
        {
            if (new Seeded(options.Seed, row).Pick(100 + day, 9) == 0)
                return day;
        }

        return 0;
    }

    private bool IsGone(int row) => LastChange(row) is var day && day > 0 && new Seeded(options.Seed, row).Pick(200 + day, 3) == 0;

    private DateTimeOffset ChangedAt(int row) => s_first.AddDays(LastChange(row)).AddMinutes(-3 * row);

    private void Write(Utf8JsonWriter writer, int row)
    {
        var day = LastChange(row);
        var seeded = new Seeded(options.Seed, row);
        writer.WriteStartObject();
        writer.WriteString("id", $"V{row + 1:D3}");
        writer.WriteString("plate", $"BW {seeded.Pick(1, 9000) + 1000}");
        writer.WriteString("carrier", Names.Carriers[seeded.Pick(2, Names.Carriers.Count)]);
        writer.WriteNumber("odometer_km", 1000 + seeded.Pick(3, 90_000) + (day * 137));
        writer.WriteString("changed_at", ChangedAt(row).ToString("yyyy-MM-ddTHH:mm:ssZ"));
        writer.WriteString("state", IsGone(row) ? "removed" : "active");
        writer.WriteEndObject();
    }
}
