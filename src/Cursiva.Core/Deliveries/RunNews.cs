using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;

namespace Cursiva.Core.Deliveries;

/// <summary>What deliveries tell of a run.</summary>
/// <param name="Job">The job's title.</param>
/// <param name="Number">The run's number.</param>
/// <param name="StartedAt">When it began, in the job's zone.</param>
/// <param name="Names">Gives the names of the run for templates.</param>
/// <param name="OutFolder">The folder of its reports.</param>
/// <param name="Files">The files that it wrote.</param>
/// <param name="Refusal">Why it did not end well, cleaned; null where it did.</param>
public sealed record RunNews(string Job, int Number, DateTimeOffset StartedAt, Func<string, string?> Names, string OutFolder, IReadOnlyList<WrittenFile> Files, Refusal? Refusal);
