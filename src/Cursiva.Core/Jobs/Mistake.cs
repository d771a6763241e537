namespace Cursiva.Core.Jobs;

/// <summary>A mistake in a job: where, what was found, what would be right.</summary>
public sealed record Mistake(Place Place, string Found, string Right)
{
    /// <inheritdoc/>
    public override string ToString() => $"{Place}: {Found}; {Right}";
}
