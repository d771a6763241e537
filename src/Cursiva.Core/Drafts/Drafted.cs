namespace Cursiva.Core.Drafts;

/// <summary>A drafted job.</summary>
/// <param name="Text">The job file.</param>
/// <param name="Name">What its pull is called.</param>
/// <param name="Proofs">What was found out, and what proved it, line by line.</param>
/// <param name="Open">What could not be found out and is to be decided.</param>
/// <param name="Asked">Requests that were made.</param>
public sealed record Drafted(string Text, string Name, IReadOnlyList<string> Proofs, IReadOnlyList<string> Open, int Asked);
