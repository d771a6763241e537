namespace Cursiva.Core.Jobs;

/// <summary>Which rows say that a row is gone.</summary>
/// <param name="At">Where such a row has <paramref name="Is"/>.</param>
/// <param name="Is">The value that must stand there; <c>*</c> for anything but null and false.</param>
public sealed record DeletedRows(JsonPointer At, string Is);
