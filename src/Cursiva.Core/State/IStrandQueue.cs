namespace Cursiva.Core.State;

/// <summary>
/// The strands of a run that several machines work on: one offers them, whoever is free takes them. What a machine took and is not heard of
/// any more is free again after its lease.
/// </summary>
public interface IStrandQueue
{
    /// <summary>How long a strand stays with a machine that is not heard of.</summary>
    TimeSpan Lease { get; }

    /// <summary>Offers strands; those that are there already stay as they are.</summary>
    /// <param name="landing">Names the landing of the run.</param>
    /// <param name="strands">Each, and whether it starts over.</param>
    Task OfferAsync(string landing, IReadOnlyList<(StoredStrand Strand, bool IsAnew)> strands, CancellationToken cancel);

    /// <summary>Takes strands that nobody has, in the order of their keys.</summary>
    /// <param name="most">At most so many.</param>
    /// <param name="holder">Names this machine's process.</param>
    Task<IReadOnlyList<TakenStrand>> TakeAsync(string landing, string pull, int most, Guid holder, CancellationToken cancel);

    /// <summary>Says that this machine still works on strands.</summary>
    /// <param name="fences">The strands, with the fences that they were taken with.</param>
    /// <returns>Those that it still has.</returns>
    Task<IReadOnlySet<(string Pull, string Strand)>> RenewAsync(
        string landing, IReadOnlyList<KeyValuePair<(string Pull, string Strand), long>> fences, CancellationToken cancel);

    /// <summary>Enters what came of strands. Those that another machine has taken meanwhile stay with it.</summary>
    Task FinishAsync(string landing, IReadOnlyList<FinishedStrand> strands, CancellationToken cancel);

    /// <summary>What came of strands that is not accepted yet.</summary>
    Task<IReadOnlyList<FinishedStrand>> FinishedAsync(string landing, CancellationToken cancel);

    /// <summary>Forgets strands whose results were taken over.</summary>
    Task AcceptAsync(string landing, IReadOnlyList<FinishedStrand> strands, CancellationToken cancel);

    /// <summary>Takes strands back whose keys lie in a range: whoever has one adds nothing more.</summary>
    Task WithdrawAsync(string landing, string pull, string from, string before, CancellationToken cancel);

    /// <summary>Takes all strands back.</summary>
    Task ClearAsync(string landing, CancellationToken cancel);

    /// <summary>Gives back what this machine has, for others to take.</summary>
    Task GiveBackAsync(Guid holder, CancellationToken cancel);

    /// <summary>Adds changes of strands that this machine has; those of strands that it has no longer are omitted.</summary>
    /// <param name="fences">The fences that the strands were taken with.</param>
    /// <returns>The strands that were omitted.</returns>
    Task<IReadOnlyList<(string Pull, string Strand)>> AddAsync(
        string landing,
        IReadOnlyList<StoredChange> changes,
        IReadOnlyDictionary<(string Pull, string Strand), long> fences,
        CancellationToken cancel);
}
