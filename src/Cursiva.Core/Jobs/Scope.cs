namespace Cursiva.Core.Jobs;

/// <summary>The names that a pull's placeholders may have besides the inputs.</summary>
/// <param name="Heads">What the pull is repeated for, and what that is repeated for in turn.</param>
/// <param name="HasMark">Whether there is a mark.</param>
internal sealed record Scope(IReadOnlyList<string> Heads, bool HasMark)
{
    public bool Knows(string name) => (HasMark && name == Incremental.Mark) || Presentation.IsOfToken(name) || Heads.Contains(name.Split('.')[0]);

    /// <summary>What such names look like, for messages.</summary>
    public IReadOnlyList<string> Hints => [.. Heads, .. HasMark ? [Incremental.Mark] : Array.Empty<string>()];
}
