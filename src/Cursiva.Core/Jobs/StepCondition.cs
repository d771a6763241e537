namespace Cursiva.Core.Jobs;

/// <summary>When a step is taken.</summary>
/// <param name="Look">The step that looked.</param>
/// <param name="Found">Whether it must have found something, or nothing.</param>
public sealed record StepCondition(string Look, bool Found);
