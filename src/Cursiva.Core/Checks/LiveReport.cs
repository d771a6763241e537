using Cursiva.Core.Refusals;

namespace Cursiva.Core.Checks;

/// <summary>What a live check found.</summary>
/// <param name="Outcome">Whether a run would get in; the first line that is bad decides.</param>
public sealed record LiveReport(IReadOnlyList<LiveLine> Lines, Outcome Outcome)
{
    public static LiveReport Of(IReadOnlyList<LiveLine> lines) => new(
        lines,
        lines.FirstOrDefault(line => line.State == LiveState.Bad) switch
        {
            null => Outcome.Done,
            { Kind: "identity" } => Outcome.SignInRefused,
            _ => Outcome.ApiFailed,
        });
}
