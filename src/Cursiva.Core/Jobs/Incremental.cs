namespace Cursiva.Core.Jobs;

/// <summary>A pull that asks for what is new since the last good run.</summary>
/// <param name="By">The column whose highest value is the mark.</param>
/// <param name="Overlap">How far before the mark the next run begins: a duration for times, a number for numbers; null for none.</param>
/// <param name="First">The mark of the first run; null to ask without one.</param>
public sealed record Incremental(JsonPointer By, string? Overlap, string? First)
{
    /// <summary>The placeholder that takes the mark.</summary>
    public const string Mark = "mark";
}
