namespace Cursiva.Core.Jobs;

/// <summary>A declared column of a pull's table.</summary>
/// <param name="At">Where a row has the value.</param>
public sealed record Column(string Name, JsonPointer At, ColumnType Type);
