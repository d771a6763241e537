using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>A listing whose rows are computed when they are asked for.</summary>
public interface IListing
{
    string Name { get; }

    int Count { get; }

    /// <summary>Number of the first row booked at or after the time; <see cref="Count"/> when there is none.</summary>
    int FirstSince(DateTimeOffset since);

    /// <summary>Writes row <paramref name="row"/> (from 0) as one JSON object.</summary>
    void Write(Utf8JsonWriter writer, int row);
}
