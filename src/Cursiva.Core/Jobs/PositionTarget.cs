namespace Cursiva.Core.Jobs;

/// <summary>A part of the request that takes the value that leads to the next page.</summary>
/// <param name="Name">The parameter, header or placeholder; the JSON Pointer of a place in the body.</param>
public sealed record PositionTarget(PositionTargetKind Kind, string Name)
{
    /// <summary>The target in words: <c>as cursor</c>.</summary>
    public string Words => Kind switch
    {
        PositionTargetKind.Parameter => $"as {Name}",
        PositionTargetKind.Header => $"in header {Name}",
        PositionTargetKind.Body => $"in the body at {Name}",
        PositionTargetKind.Placeholder => $"at {{{Name}}}",
    };

    /// <summary>The target as what an API may ignore.</summary>
    public string Noun => Kind switch
    {
        PositionTargetKind.Parameter => $"the parameter {Name}",
        PositionTargetKind.Header => $"the header {Name}",
        PositionTargetKind.Body => $"the value in the body at {Name}",
        PositionTargetKind.Placeholder => $"the value in its path at {{{Name}}}",
    };
}
