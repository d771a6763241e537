using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Follows links. The position is the address of a page.</summary>
internal abstract class LinkPager(Paging paging) : Pager(paging)
{
    public sealed override AskedPage Ask(AskedPage first, string position) =>
        first with { Method = HttpMethod.Get, Link = new Uri(position), Body = null };

    public sealed override string Kept(string position, Func<Uri, Uri> kept) => kept(new Uri(position)).AbsoluteUri;

    protected static string? Resolved(PageFacts page, string? link)
    {
        if (string.IsNullOrEmpty(link))
            return null;
        if (Uri.TryCreate(page.Uri, link, out var address) && address.Scheme is "http" or "https")
            return address.AbsoluteUri;
        throw new PageException($"the link to the next page is not an address: '{link}'");
    }
}
