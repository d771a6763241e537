using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Where a page has what the pull needs of it.</summary>
/// <param name="Next">The link or the cursor of the next page, or null when pages do not tell.</param>
/// <param name="Total">The number of rows in all, or null when pages do not tell.</param>
public sealed record PageShape(JsonPointer Rows, JsonPointer? Next, JsonPointer? Total);
