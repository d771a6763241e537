namespace Cursiva.Core.State;

/// <summary>The landings that machines share, by their folders below the state folder; empty where there is one machine.</summary>
public interface ILandings
{
    /// <summary>Whether others see what is added to a landing.</summary>
    bool IsShared(string landing);

    /// <summary>Adds changes, all of them or none, durably.</summary>
    /// <param name="landing">Names the landing.</param>
    /// <exception cref="LeaseLostException">The lease that this state is seen under is not held any more.</exception>
    Task AddAsync(string landing, IReadOnlyList<StoredChange> changes, CancellationToken cancel);

    /// <summary>Drops whatever belongs to pulls.</summary>
    Task DropAsync(string landing, IReadOnlyList<string> pulls, CancellationToken cancel);

    /// <summary>Forgets that strands were skipped.</summary>
    Task ForgetSkipsAsync(string landing, CancellationToken cancel);

    /// <summary>What there is of each pull of a landing, by name.</summary>
    Task<IReadOnlyList<LandingSum>> SumsAsync(string landing, CancellationToken cancel);

    /// <summary>The strands of a landing, by pull and key.</summary>
    IAsyncEnumerable<StoredStrand> StrandsAsync(string landing, CancellationToken cancel);

    /// <summary>The pages of a landing, by pull, strand and page. Of many only one is in memory at a time.</summary>
    /// <param name="some">The strands of a pull that are asked for; null for all of everything.</param>
    IAsyncEnumerable<StoredPage> PagesAsync(string landing, (string Pull, IReadOnlyList<string> Strands)? some, CancellationToken cancel);

    /// <summary>The landings whose name begins with a text.</summary>
    Task<IReadOnlyList<string>> ListAsync(string prefix, CancellationToken cancel);

    /// <summary>Removes landings.</summary>
    Task RemoveAsync(IReadOnlyList<string> landings, CancellationToken cancel);

    /// <summary>Says that a run is done, and that its landing is whole where the run was led.</summary>
    Task ReleaseAsync(string landing, CancellationToken cancel);
}
