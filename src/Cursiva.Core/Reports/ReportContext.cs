namespace Cursiva.Core.Reports;

/// <summary>What a report says of itself: from what it was made, and what its readers should know.</summary>
/// <param name="StartedAt">When the run began, in the job's zone.</param>
/// <param name="Zone">The job's zone, in which people read times.</param>
/// <param name="Version">Cursiva's version.</param>
/// <param name="Sources">The tables it was made from.</param>
/// <param name="Skips">What was skipped.</param>
/// <param name="Warnings">What else is not as it should be.</param>
/// <param name="Unproven">The pulls of which nothing proves that they are whole, and why they ended.</param>
/// <param name="BeforeNumber">The good run before this one; null for the first one.</param>
/// <param name="BeforeDay">The day on which that one began, or the time when it was the same day.</param>
public sealed record ReportContext(
    string Job,
    int Number,
    DateTimeOffset StartedAt,
    TimeZoneInfo Zone,
    string Version,
    IReadOnlyList<SourceLine> Sources,
    IReadOnlyList<SkippedLine> Skips,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<string> Unproven,
    int? BeforeNumber,
    string? BeforeDay);
