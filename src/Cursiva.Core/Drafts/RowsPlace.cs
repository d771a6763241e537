using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>Where an answer seems to have its rows.</summary>
/// <param name="Yaml">The value of <c>rows:</c>.</param>
/// <param name="Words">What is there, for people.</param>
/// <param name="Rows">How many rows are there.</param>
/// <param name="Within">The places that hold them; what stands there is no hint at another page.</param>
internal sealed record RowsPlace(string Yaml, string Words, int Rows, IReadOnlyList<JsonPointer> Within);
