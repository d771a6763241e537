using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Runs;

/// <summary>What came of a strand on another machine; its pages are in the landing.</summary>
/// <param name="Skip">Why it was skipped; null where it was not.</param>
/// <param name="Refusal">Why the API refused it; null where it did not.</param>
/// <param name="Restart">Why it has to start over; null where it does not.</param>
/// <param name="Warnings">What people should know, since the machine's last result.</param>
/// <param name="Requests">Requests of the machine since its last result.</param>
internal sealed record StrandResult(
    LandedSkip? Skip, Refusal? Refusal, string? Restart, IReadOnlyList<string> Warnings, long Requests)
{
    /// <summary>Nothing to tell.</summary>
    public static StrandResult None { get; } = new(null, null, null, [], 0);

    /// <summary>The answer, where one page or part was asked for and not a strand; its body is beside it.</summary>
    public PageAnswer? Answer { get; init; }

    /// <summary>Why the body did not come whole; null where it did.</summary>
    public string? Broken { get; init; }
}
