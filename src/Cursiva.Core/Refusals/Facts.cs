namespace Cursiva.Core.Refusals;

/// <summary>The facts that a diagnosis rests on.</summary>
/// <param name="Status">HTTP status, or 0 without an answer.</param>
/// <param name="Error">The error code in the answer (RFC 6749 section 5.2, or <c>error</c> in a challenge).</param>
public sealed record Facts(Desk Desk, Trouble Trouble, int Status = 0, string? Error = null);
