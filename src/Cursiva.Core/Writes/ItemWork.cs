using Cursiva.Core.Jobs;

namespace Cursiva.Core.Writes;

/// <summary>An item while it is worked on.</summary>
/// <param name="Found">The looks so far: whether they found something.</param>
internal sealed record ItemWork(ItemEntry Entry, ItemValues Values, Dictionary<string, bool> Found)
{
    /// <summary>What looks found, as JSON, by step.</summary>
    public Dictionary<string, byte[]> Things { get; } = new(StringComparer.Ordinal);

    /// <summary>Whether a step is to be taken, after the looks so far.</summary>
    public bool Takes(WriteStep step) => step.When is not { } when || (Found.TryGetValue(when.Look, out var found) && found == when.Found);
}
