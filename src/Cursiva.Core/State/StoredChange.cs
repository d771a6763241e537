namespace Cursiva.Core.State;

/// <summary>A change of a landing that machines share; changes count in the order in which they were made.</summary>
public abstract record StoredChange
{
    /// <summary>The strand that it is of.</summary>
    internal (string Pull, string Strand) Place() => this switch
    {
        StoredPage page => (page.Pull, page.Strand),
        StoredStrand strand => (strand.Pull, strand.Strand),
        StoredDrop drop => (drop.Pull, drop.Strand),
        _ => throw new InvalidOperationException($"{this} is of no strand"),
    };
}
