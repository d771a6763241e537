using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>A page has the link to the next one.</summary>
internal sealed class NextLinkStyle(Paging paging) : LinkPager(paging)
{
    public override string Words(Pull pull) => $"next link at {Paging.At}";

    protected override Way Behind(PageFacts page, string? position) => Named(Resolved(page, page.Scan.Next), page.Scan.HasNext, page);
}
