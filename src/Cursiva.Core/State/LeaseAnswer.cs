namespace Cursiva.Core.State;

/// <summary>A lease, or who has it.</summary>
/// <param name="Lease">Null where somebody else has it.</param>
/// <param name="HeldBy">What the present holder says of itself; empty where it is not known.</param>
public sealed record LeaseAnswer(ILease? Lease, string HeldBy);
