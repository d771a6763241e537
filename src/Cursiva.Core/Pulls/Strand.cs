using Cursiva.Core.Landing;

namespace Cursiva.Core.Pulls;

/// <summary>One repetition of a pull.</summary>
/// <param name="Key">A <see cref="StrandKey"/>.</param>
/// <param name="Carried">The columns that its rows take along, a JSON object.</param>
/// <param name="IsOpened">Whether a row of the pull itself opened it.</param>
internal sealed record Strand(string Key, StrandValues Values, string Carried, bool IsOpened, string Way)
{
    /// <summary>The strand of a pull that is not repeated.</summary>
    public static Strand Only { get; } = new(StrandKey.Only, StrandValues.None, "{}", false, "");

    /// <summary>A strand that was begun earlier.</summary>
    public static Strand Of(LandedStrand begun) =>
        new(begun.Strand, StrandValues.Parse(begun.Values), begun.Carried, begun.Way.Length > 0, begun.Way);

    /// <summary>What tells it apart, for people; empty for the only one.</summary>
    public string Title => Values.Any ? Values.ToString() : "";

    public LandedStrand Landed(string pull) => new(pull, Key, Values.ToJson(), Carried, Way);
}
