namespace Cursiva.Core.Jobs;

/// <summary>Which of an array of links leads to the next page.</summary>
/// <param name="Relation">Its relation, at <c>rel</c> (RFC 8288, section 3.3).</param>
/// <param name="Address">The member that has its address.</param>
public sealed record LinkChoice(string Relation, string Address);
