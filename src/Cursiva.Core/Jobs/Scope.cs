namespace Cursiva.Core.Jobs;

/// <summary>The names that placeholders of a request may have besides the inputs.</summary>
/// <param name="Heads">What the pull is repeated for, and what that is repeated for in turn; the row and the earlier steps of a
/// write-back.</param>
/// <param name="HasMark">Whether there is a mark.</param>
internal sealed record Scope(IReadOnlyList<string> Heads, bool HasMark)
{
    /// <summary>Whether a name may say how its value is placed in text: <see cref="ValueEscape"/>.</summary>
    public bool Escapes { get; init; }

    public bool Knows(string name)
    {
        if (Escapes)
            name = ValueEscape.Split(name).Name;
        return (HasMark && name == Incremental.Mark) || Presentation.IsOfToken(name) || Heads.Contains(name.Split('.')[0]);
    }

    /// <summary>What such names look like, for messages.</summary>
    public IReadOnlyList<string> Hints => [.. Heads, .. HasMark ? [Incremental.Mark] : Array.Empty<string>()];
}
