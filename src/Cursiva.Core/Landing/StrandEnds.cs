namespace Cursiva.Core.Landing;

/// <summary>Strands of a pull that ended alike.</summary>
/// <param name="Ended">Why.</param>
/// <param name="Strands">How many.</param>
/// <param name="Told">The rows in all that the API told of them; null when it did not tell of each.</param>
public sealed record StrandEnds(string Ended, long Strands, long? Told);
