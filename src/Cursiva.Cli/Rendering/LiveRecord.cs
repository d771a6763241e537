using Cursiva.Core.Checks;

namespace Cursiva.Cli.Rendering;

/// <summary>A live check as JSON.</summary>
internal sealed record LiveRecord(int ExitCode, IReadOnlyList<LiveLine> Lines);
