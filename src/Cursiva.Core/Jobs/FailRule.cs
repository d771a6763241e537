namespace Cursiva.Core.Jobs;

/// <summary>An answer with a status of success that is a failure nevertheless.</summary>
/// <param name="At">Where the answer has <paramref name="Is"/>.</param>
/// <param name="Is">The value that must stand there; <c>*</c> for anything but null, false, and what is empty.</param>
/// <param name="Again">Whether the request is tried again.</param>
public sealed record FailRule(JsonPointer At, string Is, bool Again);
