namespace Cursiva.Core.Landing;

/// <summary>One change of the index; changes are committed in the order in which they were made.</summary>
/// <param name="Page">A page that was written.</param>
/// <param name="Strand">A strand that was begun, or skipped.</param>
/// <param name="Dropped">Pages that no longer count.</param>
internal sealed record IndexChange(LandedPage? Page = null, LandedStrand? Strand = null, DroppedPages? Dropped = null)
{
    /// <summary>Whether other machines are told of it; they know what came from them.</summary>
    public bool IsTold { get; init; } = true;
}
