namespace Cursiva.Core.Landing;

/// <summary>Pages of a strand that no longer count, from one on.</summary>
/// <param name="Below">The pulls in which strands made from them are dropped as well.</param>
internal sealed record DroppedPages(string Pull, string Strand, int FromPage, IReadOnlyList<string> Below);
