using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Checks;

/// <summary>What a live check found.</summary>
/// <param name="Outcome">Whether the check passed; the first failed line decides.</param>
public sealed record LiveReport(IReadOnlyList<LiveLine> Lines, Outcome Outcome)
{
    /// <summary>What can be sent to the administrator of the other side; null when there is nothing to ask for.</summary>
    public string? ForAdministrator { get; init; }

    /// <summary>Whether all failures may go away without a change of the job or its secrets.</summary>
    public bool MayPass => Lines.All(line => line.Verdict != LiveVerdict.Failed || line.MayPass);

    /// <summary>The lines of a live check, with the job they belong to.</summary>
    public static LiveReport Of(Job job, IReadOnlyList<LiveLine> lines) => new(
        lines,
        lines.FirstOrDefault(line => line.Verdict == LiveVerdict.Failed) switch
        {
            null => Outcome.Done,
            { Kind: "identity" } => Outcome.SignInRefused,
            _ => Outcome.ApiFailed,
        })
    { ForAdministrator = AdministratorNote.Of(job, lines) };
}
