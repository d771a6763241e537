namespace Cursiva.Core.Jobs;

/// <summary>Rows that open another listing of the same pull: a folder in a folder.</summary>
/// <param name="When">What a row must have to open one.</param>
/// <param name="Path">The path of that listing, with the row's columns as placeholders.</param>
/// <param name="Deepest">Most levels below the first listing, 1 to 1000.</param>
public sealed record Opening(IReadOnlyList<KeyValuePair<JsonPointer, string>> When, string Path, int Deepest);
