using Cursiva.Core.Checks;

namespace Cursiva.Cli.Rendering;

/// <summary>A live check as JSON.</summary>
/// <param name="ForAdministrator">What can be sent to the administrator of the other side; null for nothing.</param>
/// <param name="GotInWith">The smallest change of the job that got in, by identity; null when nothing was tried.</param>
internal sealed record LiveRecord(
    int ExitCode, IReadOnlyList<LiveLine> Lines, string? ForAdministrator, IReadOnlyDictionary<string, string>? GotInWith);
