using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>
/// The big table: one row a consignment, booked one after another over 28 days. With a world, every day brings some more, and some
/// come late or arrive.
/// </summary>
public sealed class Consignments(int seed, int count, World? world = null) : IListing
{
    private static readonly DateTimeOffset s_firstBooking = new(2026, 3, 2, 0, 0, 0, TimeSpan.Zero);
    private static readonly TimeSpan s_span = TimeSpan.FromDays(28);

    public string Name => "consignments";

    public int Count => count + (world is null ? 0 : world.Day * (count / 60));

    public int FirstSince(DateTimeOffset since)
    {
        int low = 0, high = Count;
        while (low < high)
        {
            var middle = low + ((high - low) / 2);
            if (BookedAt(middle) < since)
                low = middle + 1;
            else
                high = middle;
        }

        return low;
    }

    public void Write(Utf8JsonWriter writer, int row)
    {
        var seeded = new Seeded(seed, row);
        var booked = BookedAt(row);
        var state = StateOf(seeded);
        var due = booked.AddHours(12 + seeded.Pick(2, 96));
        writer.WriteStartObject();
        writer.WriteNumber("id", 4_100_000_000_000_000_000 + row);
        writer.WriteString("reference", $"BFX-{row + 1:D8}");
        writer.WriteString("depot", Names.Depots[seeded.Pick(3, Names.Depots.Count)]);
        writer.WriteString("carrier", Names.Carriers[seeded.Pick(4, Names.Carriers.Count)]);
        writer.WriteString("status", state);
        writer.WritePropertyName("weight_kg");
        writer.WriteRawValue($"{5 + seeded.Pick(5, 24_000)}.{seeded.Pick(6, 100):D2}");
        writer.WriteNumber("pieces", 1 + seeded.Pick(7, 40));
        writer.WriteString("goods", Names.Goods[seeded.Pick(8, Names.Goods.Count)]);
        writer.WriteString("booked_at", booked.ToString("yyyy-MM-ddTHH:mm:ssZ"));
        writer.WriteString("due_at", due.ToString("yyyy-MM-ddTHH:mm:ssZ"));
        if (state == "delivered")
            writer.WriteString("delivered_at", due.AddMinutes(-seeded.Pick(9, 600)).ToString("yyyy-MM-ddTHH:mm:ssZ"));
        else
            writer.WriteNull("delivered_at");
        writer.WriteBoolean("fragile", seeded.Pick(10, 5) == 0);
        writer.WriteEndObject();
    }

    private string StateOf(Seeded seeded)
    {
        var state = Names.States[seeded.Pick(1, Names.States.Count)];
        for (var day = 1; day <= (world?.Day ?? 0); day++)
        {
            state = (state, seeded.Pick(300 + day, 24)) switch
            {
                ("booked" or "in-transit", 0) => "late",
                ("in-transit", < 4) => "delivered",
                ("late", < 7) => "delivered",
                _ => state,
            };
        }

        return state;
    }

    private DateTimeOffset BookedAt(int row) => s_firstBooking.AddSeconds(Math.Floor(s_span.TotalSeconds * row / Math.Max(1, count)));
}
