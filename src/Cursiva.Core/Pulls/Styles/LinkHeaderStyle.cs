using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>A Link header has the link to the next page (RFC 8288).</summary>
internal sealed class LinkHeaderStyle(Paging paging) : LinkPager(paging)
{
    public override string Words(Pull pull) => $"Link header, relation {Paging.AnswerHeader}";

    protected override Way Behind(PageFacts page, string? position)
    {
        var header = page.Answer.Header("Link");
        var link = header is null ? null : LinkHeader.Find(header, Paging.AnswerHeader!, page.Uri);
        return Named(Resolved(page, link), header is not null && LinkHeader.Find(header, "next", page.Uri) is null, page);
    }
}
