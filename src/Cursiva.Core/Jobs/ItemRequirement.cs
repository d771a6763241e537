namespace Cursiva.Core.Jobs;

/// <summary>What must hold of every item of a write before any of them is sent.</summary>
/// <param name="Name">What it says, in the author's words.</param>
/// <param name="Place">Where it stands.</param>
/// <param name="Condition">An SQL condition over the columns of the items; it may look at all of them by a window function.</param>
public sealed record ItemRequirement(string Name, Place Place, string Condition);
