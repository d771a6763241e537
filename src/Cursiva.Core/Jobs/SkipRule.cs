namespace Cursiva.Core.Jobs;

/// <summary>A refusal that the job allows: its strand is skipped and recorded.</summary>
/// <param name="Status">The status of the answer; null for a refused sign-in.</param>
/// <param name="At">Where the answer has <paramref name="Is"/>; null when the status alone decides.</param>
/// <param name="Is">The value that must stand there; <c>*</c> for anything.</param>
/// <param name="SignIn">The error of a refused sign-in (RFC 6749 section 5.2); <c>*</c> for any.</param>
/// <param name="Because">The reason in the job's words.</param>
public sealed record SkipRule(int? Status, JsonPointer? At, string Is, string? SignIn, string? Because);
