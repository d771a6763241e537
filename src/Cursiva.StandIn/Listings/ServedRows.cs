using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>The consignments, counted as they are served.</summary>
public sealed class ServedRows(StandInOptions options, Statistics statistics)
{
    public const long FirstId = 4_100_000_000_000_000_000;

    public Consignments All { get; } = new(options.Seed, options.Rows);

    /// <summary>How many rows a request asks for.</summary>
    public int Size(HttpContext context, string name = "size") => HtmlPageWriter.Number(context, name, options.PageSize);

    /// <summary>Counts rows as served.</summary>
    /// <returns>The row behind them.</returns>
    public int Serve(int first, int size)
    {
        var end = (int)Math.Min(All.Count, (long)first + size);
        statistics.RowsServed(Math.Max(0, end - first));
        return Math.Max(first, end);
    }

    /// <summary>Answers with an object whose <c>items</c> are the rows.</summary>
    /// <param name="beside">Writes more members; it is given the row behind the last one.</param>
    public async Task ItemsAsync(HttpContext context, int first, int size, Action<Utf8JsonWriter, int> beside)
    {
        var end = Serve(first, size);
        await HtmlPageWriter.WriteAsync(context, writer =>
        {
            writer.WriteStartObject();
            writer.WritePropertyName("items");
            HtmlPageWriter.Rows(writer, All, Math.Min(first, end), end);
            beside(writer, end);
            writer.WriteEndObject();
        });
    }
}
