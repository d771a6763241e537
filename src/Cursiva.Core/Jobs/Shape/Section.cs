namespace Cursiva.Core.Jobs.Shape;

/// <summary>A group of keys.</summary>
public sealed record Section(string Name, string Meaning, IReadOnlyList<Key> Keys)
{
    /// <summary>Keys of which it must have one at least; empty for none.</summary>
    public IReadOnlyList<Key> OneOf { get; init; } = [];
}
