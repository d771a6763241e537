namespace Cursiva.Core.Jobs;

/// <summary>What the steps of a write or an upload may encrypt with.</summary>
/// <param name="Identity">The name of the identity that they are sent as; null for none.</param>
/// <param name="Identities">All identities of the job, by name.</param>
internal sealed record StepExchange(string? Identity, IReadOnlyDictionary<string, DeclaredIdentity> Identities);
