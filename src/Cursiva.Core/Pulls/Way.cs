namespace Cursiva.Core.Pulls;

/// <summary>How a listing continues after a page: at a position, or not at all.</summary>
/// <param name="Next">Where it goes on; null when it has ended.</param>
/// <param name="Ended">Why it has ended; null while it goes on.</param>
internal readonly record struct Way(string? Next, Ending? Ended)
{
    public static Way On(string position) => new(position, null);

    public static Way End(Ending why) => new(null, why);
}
