namespace Cursiva.Core.State;

/// <summary>Pages of a strand that no longer count, from one on; and pages and strands of pulls below that were made from them.</summary>
/// <param name="Below">Pulls, and the first strand key that is dropped of each, and the first after it that is not.</param>
public sealed record StoredDrop(string Pull, string Strand, int FromPage, IReadOnlyList<(string Pull, string From, string Before)> Below)
    : StoredChange;
