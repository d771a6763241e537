using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Pulls;

/// <summary>What earlier good runs tell a pull.</summary>
public interface IPullPast
{
    /// <summary>The mark, or delta token, for a strand by its values; null for none.</summary>
    string? Mark(Pull pull, string strand);

    /// <summary>Whether pages of the pull led on to others in an earlier good run.</summary>
    bool LedOn(Pull pull);

    /// <summary>
    /// Pages of the last good run that an API may say to be as they were; none where the pull is not the one that it was.
    /// </summary>
    TaggedPages Tagged(Pull pull);

    /// <summary>The newest columns known of a pull.</summary>
    IReadOnlyList<KnownColumn> LastSeen(string pull);

    /// <summary>The landings whose rows a pull's newest state is made of, without the present one. To be disposed of.</summary>
    LandingChain Earlier(Pull pull);
}
