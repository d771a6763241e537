namespace Cursiva.Core.Jobs;

/// <summary>What of an exchange is signed.</summary>
/// <param name="Requests">How requests are signed; null for not at all.</param>
/// <param name="Answers">How answers are verified; null for not at all.</param>
/// <param name="Rows">How each row is verified; null for not at all.</param>
public sealed record Signatures(RequestSignature? Requests, SignatureCheck? Answers, SignatureCheck? Rows);
