namespace Cursiva.Core.State;

/// <summary>What one at a time may do, among all who share a state. A holder that dies gives it back without being asked.</summary>
public interface ILeases
{
    /// <summary>Takes a lease if it is free.</summary>
    /// <param name="name">Letters, digits, dots, dashes and one slash.</param>
    /// <param name="holder">What others are told about the holder while it is held.</param>
    /// <param name="lives">How long it has to stay with a holder that is not heard of; null for as long as the state says.</param>
    Task<LeaseAnswer> TryTakeAsync(string name, string holder, TimeSpan? lives, CancellationToken cancel);

    /// <summary>How long whoever waits for a lease waits before it asks again.</summary>
    TimeSpan LookAgain { get; }

    /// <summary>Waits for a lease and takes it.</summary>
    /// <param name="name">Letters, digits, dots, dashes and one slash.</param>
    /// <param name="holder">What others are told about the holder while it is held.</param>
    /// <param name="lives">How long it has to stay with a holder that is not heard of; null for as long as the state says.</param>
    /// <param name="clock">Measures the waits.</param>
    async Task<ILease> TakeAsync(string name, string holder, TimeSpan? lives, TimeProvider clock, CancellationToken cancel)
    {
        while (true)
        {
            if ((await TryTakeAsync(name, holder, lives, cancel)).Lease is { } taken)
                return taken;
            await Task.Delay(LookAgain, clock, cancel);
        }
    }
}
