namespace Cursiva.Core.Jobs;

/// <summary>A part of the request that takes the value that leads to the next page.</summary>
/// <param name="Name">The parameter, header or placeholder; the JSON Pointer of a place in the body.</param>
public sealed record PagingTaker(TakerKind Kind, string Name)
{
    /// <summary>The taker in words: <c>as cursor</c>.</summary>
    public string Words => Kind switch
    {
        TakerKind.Parameter => $"as {Name}",
        TakerKind.Header => $"in header {Name}",
        TakerKind.Body => $"in the body at {Name}",
        TakerKind.Placeholder => $"at {{{Name}}}",
    };

    /// <summary>The taker as what an API may ignore.</summary>
    public string Noun => Kind switch
    {
        TakerKind.Parameter => $"the parameter {Name}",
        TakerKind.Header => $"the header {Name}",
        TakerKind.Body => $"what stands in the body at {Name}",
        TakerKind.Placeholder => $"what stands in its path at {{{Name}}}",
    };
}
