namespace Cursiva.Core.State;

/// <summary>
/// The slots by which declared limits hold among all who share a state, and the pauses that APIs ask for. Times are told as spans from now:
/// clocks of several machines differ.
/// </summary>
public interface ISlots
{
    /// <summary>Takes permits, each with one slot of every window or none at all.</summary>
    /// <param name="most">How many are wanted; fewer are taken when there are no more.</param>
    /// <param name="hold">How long after it may leave a request can be on its way; one window later its slots are free, if their holder is
    /// never heard of again.</param>
    /// <param name="givenBack">Slots to give back first, in the same transaction. One that another request holds by now stays with
    /// it.</param>
    Task<SlotAnswer> TakeAsync(
        IReadOnlyList<SlotWindow> windows, int most, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel);

    /// <summary>Holds slots for longer: their request is still on its way.</summary>
    /// <param name="hold">For how long from now.</param>
    /// <returns>The slots as they are held now; one that was taken for lost is omitted.</returns>
    Task<IReadOnlyList<Slot>> HoldAsync(IReadOnlyList<Slot> slots, TimeSpan hold, CancellationToken cancel);

    /// <summary>How many slots of a bucket are taken at this time.</summary>
    Task<int> CountAsync(string bucket, CancellationToken cancel);

    /// <summary>Keeps the pause that an API has asked a client for, unless a longer one is kept.</summary>
    /// <param name="client">Names API and client.</param>
    /// <param name="span">From now.</param>
    Task PauseAsync(string client, TimeSpan span, CancellationToken cancel);

    /// <summary>How much is left of the pause of a client; null for none.</summary>
    Task<TimeSpan?> PauseLeftAsync(string client, CancellationToken cancel);
}
