namespace Cursiva.Core.Jobs;

/// <summary>A declared column of a pull's table.</summary>
/// <param name="At">Where a row has the value.</param>
/// <param name="Zone">IANA name of the zone of times that come without an offset, or null.</param>
public sealed record Column(string Name, JsonPointer At, ColumnType Type, string? Zone = null);
