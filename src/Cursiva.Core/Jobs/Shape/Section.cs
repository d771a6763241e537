namespace Cursiva.Core.Jobs.Shape;

/// <summary>A group of keys.</summary>
public sealed record Section(string Name, string Meaning, IReadOnlyList<Key> Keys);
