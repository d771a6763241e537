namespace Cursiva.Core.Landing;

/// <summary>The landings of several runs whose rows make up the state of a pull, oldest first.</summary>
/// <param name="links">Each with the strands, by their values, that a later run fetched again: their rows no longer count.</param>
public sealed class LandingChain(IReadOnlyList<(RunLanding Landing, IReadOnlySet<string> Anew)> links) : IAsyncDisposable
{
    /// <summary>No landing.</summary>
    public static LandingChain None { get; } = new([]);

    /// <summary>The rows of a pull, from every landing.</summary>
    public IReadOnlyList<LandedRows> Read(string pull) => [.. links.Select(link => link.Landing.Read(pull, link.Anew))];

    /// <summary>The same, with the strands that they belong to.</summary>
    public IReadOnlyList<StrandRows> ReadStrands(string pull) =>
        [.. links.Select(
            link => new StrandRows(
                link.Landing.Read(pull, link.Anew),
                link.Landing.Strands(pull).ToDictionary(strand => strand.Strand, strand => strand.Values, StringComparer.Ordinal)))];

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (var (landing, _) in links)
            await landing.DisposeAsync();
    }
}
