namespace Cursiva.Core.Operations;

/// <summary>Something of a job that somebody has to look at.</summary>
/// <param name="Key">What it is, the same as long as it lasts: <c>late</c>, <c>failed</c>, <c>unusual-rows</c>.</param>
/// <param name="Words">One sentence for people.</param>
public sealed record JobCondition(string Key, string Words);
