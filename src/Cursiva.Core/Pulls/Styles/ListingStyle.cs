using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// One way in which a listing is read to its end: how a job declares it, what it is called, which page comes next and how that is asked
/// for.
/// Each is one class in this folder, whose file ends in Style.cs; the build enters what its <c>Declared</c> says into
/// <see cref="PagingStyles"/>, and does not compile without it.
/// </summary>
internal abstract class ListingStyle
{
    /// <summary>The style that a pull declares.</summary>
    public static ListingStyle Of(Paging paging) => ((FollowedStyle)paging.Style).Follow(paging);

    /// <summary>How the listing is read, in words, for the account of a job.</summary>
    public abstract string Words(Pull pull);

    /// <summary>Lands whatever a strand still misses.</summary>
    /// <exception cref="Refusals.RefusedException">The API refused, or an answer is not what the pull expects.</exception>
    public abstract Task RunAsync(StrandRun run, CancellationToken cancel);
}
