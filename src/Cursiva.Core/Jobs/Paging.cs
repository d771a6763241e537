namespace Cursiva.Core.Jobs;

/// <summary>How the next page is found. Without any pointer the listing has one page.</summary>
/// <param name="NextLink">Where a page has the link to the next one.</param>
/// <param name="Cursor">Where a page has the cursor of the next one.</param>
/// <param name="Parameter">The query parameter that takes the cursor.</param>
/// <param name="Total">Where a page tells how many rows there are in all.</param>
public sealed record Paging(JsonPointer? NextLink, JsonPointer? Cursor, string? Parameter, JsonPointer? Total);
