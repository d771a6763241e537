namespace Cursiva.Core.Jobs;

/// <summary>Fills one table by paging through one listing.</summary>
/// <param name="Get">The path, an RFC 6570 URI template appended to the API's base.</param>
/// <param name="Rows">Where a page has its rows.</param>
/// <param name="Columns">Declared columns; empty when they are found from the rows.</param>
public sealed record Pull(string Name, Place Place, string Api, string Get, JsonPointer Rows, Paging Paging, IReadOnlyList<Column> Columns);
