namespace Cursiva.Core.Jobs;

/// <summary>Where an answer has its rows.</summary>
/// <param name="Inside">Where a batch has its rows.</param>
/// <param name="ValueAs">The field that takes a plain value.</param>
/// <param name="KeysAs">The field that takes the names of an object whose values are the rows.</param>
public sealed record RowSource(RowsForm Form, JsonPointer At, JsonPointer? Inside = null, string? KeysAs = null, string? ValueAs = null);
