namespace Cursiva.Core.State;

/// <summary>
/// The database of a shared state did not answer for longer than can be waited for. Nothing that was told to be written is lost.
/// </summary>
/// <param name="where">The database, without its password.</param>
/// <param name="waited">How long it was tried.</param>
/// <param name="why">What the last attempt ended with.</param>
public sealed class StateAwayException(string where, TimeSpan waited, string why, Exception inner)
    : IOException($"the shared state at {where} did not answer for {waited.TotalSeconds:0} s: {why}", inner);
