using System.Globalization;

namespace Cursiva.StandIn.Listings;

/// <summary>Tenants, each with scans of its own. One in forty has no licence, and one in sixty never approved the application.</summary>
public sealed class Tenants(StandInOptions options, Statistics statistics)
{
    private const int ScansEach = 25;

    public void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/v2/tenants", ListAsync);
        routes.MapGet("/v2/tenants/{tenant}/scans", ScansAsync);
        routes.MapGet("/v2/tenants/{tenant}/scans/{scan}/events", EventsAsync);
    }

    public static string IdOf(int row) => $"T{row + 1:D4}";

    /// <summary>The number of a tenant, from 0; null when there is none.</summary>
    public static int? RowOf(string id) => id.Length > 1 && id[0] == 'T' && int.TryParse(id[1..], out var number) ? number - 1 : null;

    public static bool HasNoLicence(int row) => row % 40 == 12;

    public static bool HasNotApproved(int row) => row % 60 == 33;

    private async Task ListAsync(HttpContext context)
    {
        var (first, size) = (HtmlPageWriter.Number(context, "from", 0), HtmlPageWriter.Number(context, "size", 50));
        var end = Math.Min(options.Tenants, first + size);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WriteStartArray("items");
            for (var row = first; row < end; row++)
            {
                writer.WriteStartObject();
                writer.WriteString("id", IdOf(row));
                writer.WriteString("name", $"{Names.Carriers[row % Names.Carriers.Count]} {row / Names.Carriers.Count + 1}");
                writer.WriteEndObject();
            }

            writer.WriteEndArray();
            writer.WriteString("next", end < options.Tenants ? $"/v2/tenants?from={end}&size={size}" : null);
            writer.WriteEndObject();
        });
    }

    private async Task ScansAsync(HttpContext context)
    {
        var tenant = context.Request.RouteValues["tenant"]!.ToString()!;
        if (RowOf(tenant) is not { } row || row >= options.Tenants)
        {
            await Problem.WriteAsync(context, 404, "no_such_tenant", $"there is no tenant {tenant}");
            return;
        }

        if (HasNoLicence(row))
        {
            await Problem.WriteAsync(context, 403, "no_licence", $"tenant {tenant} has no licence for scans");
            return;
        }

        var (first, size) = (HtmlPageWriter.Number(context, "from", 0), HtmlPageWriter.Number(context, "size", 5));
        var end = Math.Min(ScansEach, first + size);
        statistics.RowsServed(Math.Max(0, end - first));
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WriteStartArray("items");
            for (var scan = first; scan < end; scan++)
            {
                var seeded = new Seeded(options.Seed, ((long)row * ScansEach) + scan);
                writer.WriteStartObject();
                writer.WriteString("id", string.Create(CultureInfo.InvariantCulture, $"{tenant}-{scan:D3}"));
                writer.WriteString("depot", Names.Depots[seeded.Pick(1, Names.Depots.Count)]);
                writer.WriteNumber("pieces", 1 + seeded.Pick(2, 40));
                writer.WriteStartObject("driver");
                writer.WriteString("name", "driver " + seeded.Pick(3, 100));
                writer.WriteString("phone", "555-" + seeded.Pick(4, 10_000));
                writer.WriteEndObject();
                writer.WriteEndObject();
            }

            writer.WriteEndArray();
            writer.WriteString("next", end < ScansEach ? $"{context.Request.Path}?from={end}&size={size}" : null);
            writer.WriteEndObject();
        });
    }

    private static Task EventsAsync(HttpContext context) => HtmlPageWriter.WriteAsync(context, writer =>
    {
        writer.WriteStartArray();
        for (var i = 0; i < 2; i++)
        {
            writer.WriteStartObject();
            writer.WriteString("scan", context.Request.RouteValues["scan"]!.ToString());
            writer.WriteNumber("step", i);
            writer.WriteEndObject();
        }

        writer.WriteEndArray();
    });
}
