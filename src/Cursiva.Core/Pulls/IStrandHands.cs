using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Pulls;

/// <summary>Fetches strands of a run on whichever machine is free.</summary>
internal interface IStrandHands
{
    /// <summary>How many strands are out at a time.</summary>
    int AtATime { get; }

    /// <summary>
    /// Whether the strands of a pull can be fetched on any machine: those that leave something else behind than rows cannot.
    /// </summary>
    bool Take(Pull pull);

    /// <summary>Has a strand fetched. When it returns, its pages have landed here, too.</summary>
    /// <returns>Why it was skipped; null where it was not.</returns>
    /// <exception cref="Refusals.RefusedException">The API refused it.</exception>
    /// <exception cref="StrandRestart">Its place is not known any more.</exception>
    Task<LandedSkip?> FetchAsync(PullContext context, Strand strand, CancellationToken cancel);

    /// <summary>Has a counted page, or a part of an export, fetched while those before it are landed here.</summary>
    /// <param name="position">The position of the page, or the address of the part.</param>
    /// <returns>Its answer, which is null when the API refuses for a reason that the job allows; null where this machine fetches
    /// it.</returns>
    Task<Answer?>? FetchAhead(StrandRun run, string position, CancellationToken cancel);

    /// <summary>Takes a strand back, and whatever was made from its rows: nothing more is added to them.</summary>
    /// <param name="below">The pulls with strands made from its rows.</param>
    Task WithdrawAsync(string pull, string strand, IReadOnlyList<string> below, CancellationToken cancel);
}
