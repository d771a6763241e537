namespace Cursiva.Core.Jobs;

/// <summary>Where an answer has its rows.</summary>
/// <param name="At">Where it has them; of several places the part that all of them share.</param>
/// <param name="Inside">Where a batch has its rows.</param>
/// <param name="ValueAs">The field that takes a plain value.</param>
/// <param name="KeysAs">The field that takes the names of an object whose values are the rows.</param>
public sealed record RowSource(RowsForm Form, JsonPointer At, JsonPointer? Inside = null, string? KeysAs = null, string? ValueAs = null)
{
    /// <summary>The places of several arrays, below <see cref="At"/>.</summary>
    public IReadOnlyList<JsonPointer> Several { get; init; } = [];

    /// <summary>The field that takes the last name of the place that a row was at; null for none.</summary>
    public string? PlaceAs { get; init; }

    /// <summary>Fields that rows take along from their batch, and where a batch has them.</summary>
    public IReadOnlyList<KeyValuePair<string, JsonPointer>> Carry { get; init; } = [];

    /// <summary>Whether a place of <see cref="Several"/> or <see cref="Carry"/> may be on no page.</summary>
    public bool MayBeMissing { get; init; }

    /// <summary>The places that have to be on some page, as they are written, each with its key; at most 64.</summary>
    public IReadOnlyList<(string Key, string Place)> Expected =>
        MayBeMissing
            ? []
            : [.. Several.Select(place => ("rows", At.Text + place.Text)), .. Carry.Select(carried => ("carry", carried.Value.Text))];
}
