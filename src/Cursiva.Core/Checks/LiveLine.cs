namespace Cursiva.Core.Checks;

/// <summary>One line of a live check.</summary>
/// <param name="Kind"><c>identity</c>, <c>api</c> or <c>pull</c>.</param>
/// <param name="Step">What was looked at.</param>
/// <param name="Says">What was found.</param>
public sealed record LiveLine(string Kind, string Name, string Step, LiveState State, string Says, string? NextStep = null);
