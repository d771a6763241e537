namespace Cursiva.Core.State;

/// <summary>What keeps the state: an engine for one machine, or one for several.</summary>
public interface IStateEngine
{
    /// <summary>Opens the state.</summary>
    /// <exception cref="Refusals.RefusedException">It cannot be used, and what to do is known.</exception>
    /// <exception cref="IOException">It cannot be reached.</exception>
    Task<IState> OpenAsync(CancellationToken cancel);

    /// <summary>The same state for those who work on one run together.</summary>
    IStateEngine ForTogether();
}
