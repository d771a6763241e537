namespace Cursiva.Core.State;

/// <summary>The database of a shared state did not answer for longer than can be waited for. Nothing that was told to be written is lost.</summary>
/// <param name="where">The database, without its password.</param>
/// <param name="waited">How long it was tried.</param>
public sealed class StateAwayException(string where, TimeSpan waited, Exception inner)
    : IOException($"the shared state at {where} did not answer for {waited.TotalSeconds:0} s: {(inner.InnerException ?? inner).Message}", inner);
