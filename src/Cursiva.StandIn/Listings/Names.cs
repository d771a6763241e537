namespace Cursiva.StandIn.Listings;

/// <summary>The made-up names of the Brackwater world.</summary>
internal static class Names
{
    public static IReadOnlyList<string> Depots { get; } =
    [
        "Northquay", "Saltmarsh", "Gannet Point", "Low Ferry", "Tidewell", "Ostrava Lane", "Kelp Street", "Harrowgate Basin",
        "Møllehavn", "Brine Cross", "Old Sluice", "Piers End",
    ];

    public static IReadOnlyList<string> Carriers { get; } =
    [
        "Heron Haulage", "Blackwater Lines", "Causeway & Sons", "Tern Transport", "Anchorage Freight", "Dunlin Direct",
        "Estuary Express", "Sandbar Carriers",
    ];

    public static IReadOnlyList<string> Goods { get; } =
    [
        "roof slate", "oat flour", "bicycle frames", "glass jars, empty", "paper rolls", "sea salt", "timber, sawn", "pump parts",
        "café chairs", "copper pipe 15\"",
    ];

    public static IReadOnlyList<string> States { get; } =
    [
        "booked",
        "in-transit",
        "in-transit",
        "delivered",
        "delivered",
        "delivered",
        "late",
        "held",
    ];
}
