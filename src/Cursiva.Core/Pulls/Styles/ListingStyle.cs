using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// One way in which a listing is read to its end: a class for each <see cref="PagingStyle"/>. A new one is a value of that enumeration,
/// a key in <see cref="Jobs.Shape.PullKeys.Styles"/> and a class here; without the class this does not compile.
/// </summary>
internal abstract class ListingStyle
{
    /// <summary>The style that a pull declares.</summary>
    public static ListingStyle Of(Paging paging) => paging.Style switch
    {
        PagingStyle.OnePage => new OnePageStyle(paging),
        PagingStyle.NextLink => new NextLinkStyle(paging),
        PagingStyle.LinkHeader => new LinkHeaderStyle(paging),
        PagingStyle.PageNumber => new PageNumberStyle(paging),
        PagingStyle.Offset => new OffsetStyle(paging),
        PagingStyle.Cursor => new CursorStyle(paging),
        PagingStyle.Keyset => new KeysetStyle(paging),
        PagingStyle.Stream => new StreamStyle(),
        PagingStyle.Export => new ExportStyle(),
        PagingStyle.Download => new DownloadStyle(),
    };

    /// <summary>How the listing is read, in words, for the account of a job.</summary>
    public abstract string Words(Pull pull);

    /// <summary>Lands whatever a strand still misses.</summary>
    /// <exception cref="Refusals.RefusedException">The API refused, or an answer is not what the pull expects.</exception>
    public abstract Task RunAsync(StrandRun run, CancellationToken cancel);
}
