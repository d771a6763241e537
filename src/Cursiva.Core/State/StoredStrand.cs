namespace Cursiva.Core.State;

/// <summary>A strand of a landing, as it is told to other machines.</summary>
/// <param name="Values">Its values by name, a JSON object.</param>
/// <param name="Carried">The columns that its rows take along, a JSON object.</param>
/// <param name="Way">What leads to it through the same pull.</param>
/// <param name="Status">The status that it was skipped with; null where it was not.</param>
/// <param name="Because">Why it was skipped; null where it was not.</param>
/// <param name="Said">The other side's words then.</param>
/// <param name="Request">The request that it was.</param>
public sealed record StoredStrand(
    string Pull, string Strand, string Values, string Carried, string Way, int? Status, string? Because, string? Said, string? Request)
    : StoredChange;
