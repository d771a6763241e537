using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>The carriers (the tenants of the exchange), one row each.</summary>
public sealed class Carriers(int seed) : IListing
{
    public string Name => "carriers";

    public int Count => Names.Carriers.Count;

    public int FirstSince(DateTimeOffset since) => 0;

    public void Write(Utf8JsonWriter writer, int row)
    {
        var seeded = new Seeded(seed, row);
        writer.WriteStartObject();
        writer.WriteString("id", $"C{row + 1:D2}");
        writer.WriteString("name", Names.Carriers[row]);
        writer.WriteNumber("vehicles", 3 + seeded.Pick(1, 60));
        writer.WriteStartArray("lanes");
        for (var lane = 0; lane <= seeded.Pick(2, 3); lane++)
            writer.WriteStringValue(Names.Depots[seeded.Pick(3 + lane, Names.Depots.Count)]);
        writer.WriteEndArray();
        writer.WriteEndObject();
    }
}
