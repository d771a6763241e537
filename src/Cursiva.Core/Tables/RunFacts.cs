namespace Cursiva.Core.Tables;

/// <summary>What SQL is told of a run.</summary>
/// <param name="LandedAt">When its last row had landed.</param>
/// <param name="Inputs">A JSON object.</param>
/// <param name="BeforeNumber">The good run before it; null for the first one.</param>
public sealed record RunFacts(
    int Number, DateTimeOffset StartedAt, DateTimeOffset LandedAt, string Inputs, int? BeforeNumber, DateTimeOffset? BeforeStartedAt);
