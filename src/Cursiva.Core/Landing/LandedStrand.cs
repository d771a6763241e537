namespace Cursiva.Core.Landing;

/// <summary>A strand that was made from a row.</summary>
/// <param name="Values">Its values by name, a JSON object.</param>
/// <param name="Carried">The columns that its rows take along, a JSON object.</param>
/// <param name="Way">Digests of the listings that lead to it through the same pull, 16 characters each; the last is its own.</param>
public sealed record LandedStrand(string Pull, string Strand, string Values, string Carried, string Way)
{
    /// <summary>The values of a strand that was made from no row.</summary>
    public const string NoValues = "{}";

    /// <summary>Why it was skipped; null when it was not.</summary>
    public LandedSkip? Skip { get; init; }
}
