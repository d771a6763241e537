using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>A page that came and is being checked and landed.</summary>
internal sealed class FetchedPage(PageFetch fetch, Answer answer, PageScanner scanner)
{
    public PageFetch Fetch => fetch;

    public Answer Answer => answer;

    public PageScanner Scanner => scanner;

    /// <summary>What it has beside its rows.</summary>
    public PageSigns Signs { get; set; } = PageSigns.None;

    /// <summary>What was found, with the counts that stand in headers.</summary>
    public PageScan Told(PageScan scan, Paging paging) => PageEnvelope.Counted(scan, paging, answer);

    public OddPage Odd(PageException error)
    {
        scanner.Restore();
        return new OddPage(error, fetch.Request, answer.Status, answer.Body.Content.ToArray());
    }

    public void Release(ScannerPool scanners)
    {
        answer.Dispose();
        scanners.Return(scanner);
    }
}
