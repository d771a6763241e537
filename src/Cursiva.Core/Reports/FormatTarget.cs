using Cursiva.Core.Jobs;

namespace Cursiva.Core.Reports;

/// <summary>A file that a report is written to.</summary>
/// <param name="Stream">Takes its bytes.</param>
/// <param name="ScratchPath">A place for what a format must put together before it is written.</param>
internal sealed record FormatTarget(Stream Stream, Report Report, ReportContext Context, string ScratchPath);
