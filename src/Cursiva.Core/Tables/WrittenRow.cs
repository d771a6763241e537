namespace Cursiva.Core.Tables;

/// <summary>What became of an item of a write in a run.</summary>
/// <param name="Write">The write's name.</param>
/// <param name="Item">The values of its key, as a JSON array.</param>
/// <param name="Step">The step that it ended at; null where none was taken.</param>
/// <param name="State">sent, unchanged, refused, in doubt, skipped, removed or ready.</param>
/// <param name="Said">What the other side said, or what is wrong; null for nothing.</param>
public sealed record WrittenRow(string Write, string Item, string? Step, string State, string? Said);
