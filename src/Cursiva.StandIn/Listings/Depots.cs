using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>The depots, one row each.</summary>
public sealed class Depots(int seed) : IListing
{
    public string Name => "depots";

    public int Count => Names.Depots.Count;

    public int FirstSince(DateTimeOffset since) => 0;

    public void Write(Utf8JsonWriter writer, int row)
    {
        var seeded = new Seeded(seed, row);
        writer.WriteStartObject();
        writer.WriteString("id", $"D{row + 1:D3}");
        writer.WriteString("name", Names.Depots[row]);
        writer.WriteNumber("docks", 2 + seeded.Pick(1, 20));
        writer.WriteStartObject("address");
        writer.WriteString("street", $"{1 + seeded.Pick(2, 90)} Quay Road");
        writer.WriteString("postcode", $"{seeded.Pick(3, 10_000):D4}");
        writer.WriteEndObject();
        writer.WriteEndObject();
    }
}
