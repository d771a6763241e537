using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>A style as it is declared, and how a listing is read in it.</summary>
internal sealed class FollowedStyle(Func<Paging, ListingStyle> follow) : PagingStyle
{
    /// <summary>Reads listings as a pull declares.</summary>
    public ListingStyle Follow(Paging paging) => follow(paging);
}
