namespace Cursiva.Core.Landing;

/// <summary>Pages of a strand that no longer count, from one on.</summary>
/// <param name="Below">The pulls in which strands made from them are dropped as well.</param>
internal sealed record DroppedPages(string Pull, string Strand, int FromPage, IReadOnlyList<string> Below)
{
    /// <summary>Whether the strand starts over: every machine has to know.</summary>
    public bool IsSetAside { get; init; }

    /// <summary>The first strand that was made from one of them, in the order of keys.</summary>
    public string FirstBelow => StrandKey.Of(Strand, FromPage, 0);

    /// <summary>The first key behind all of those.</summary>
    public string FirstAfter => Strand.Length == 0 ? "g" : Strand + "0";
}
