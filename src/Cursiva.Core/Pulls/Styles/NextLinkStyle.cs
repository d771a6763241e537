using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Pulls;

/// <summary>A page has the link to the next one.</summary>
internal sealed class NextLinkStyle(Paging paging) : LinkPager(paging)
{
    private static readonly Key LinksAt = new("at", KeyKind.Pointer, "the place of the array of links in a page")
    {
        Required = true,
        Example = "/links",
    };
    private static readonly Key LinkRelation = new("relation", KeyKind.Text, "the rel of the link that leads to the next page")
    {
        Otherwise = "next",
        Example = "next",
    };
    private static readonly Key LinkAddress = new("address", KeyKind.Text, "the member of a link with its address")
    {
        Otherwise = "href",
        Example = "href",
    };
    private static readonly Section LinksSection = new("next-link", "an array of links, one of which leads to the next page",
    [
        LinksAt,
        LinkRelation,
        LinkAddress,
    ]);
    private static readonly Key NextLink = new(
        "next-link",
        KeyKind.PointerOrSection,
        "the place of the next page's link in a page, absolute or relative; null, empty or missing on the last page. Or an array of links, and which of them to follow")
    { Inside = LinksSection, Example = "/links/next" };

    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(paging => new NextLinkStyle(paging))
    {
        Keys = [NextLink],
        MayLeadToChanges = true,
        Read = Read,
    };

    public override (string Key, string Text)? NextPlace => (NextLink.Name, Paging.At!.Text);

    public override string WayOn => $"its own link at {Paging.At?.Text}";

    public override IReadOnlyList<JsonPointer> NextPlaces => Paging.Places;

    public override string Words(Pull pull) => $"next link at {Paging.At}";

    protected override Way Behind(PageFacts page, string? position) => Named(Resolved(page, page.Scan.Next), page.Scan.HasNext, page);

    public override string? NextIn(PageBuffer page, TokenIndex index, IReadOnlyList<int> places) => Paging.Link is { } choice
        ? PageTokens.Link(page, index, places[0], choice)
        : PageTokens.Text(page, index, places[0]);

    private static Paging Read(SectionReader section, Reading reading, Paging paging)
    {
        if (section.Node(NextLink) is not YamlMappingNode)
            return section.Pointer(NextLink) is { } at ? paging with { Places = [at] } : paging;
        var links = section.Inside(NextLink, reading)!;
        return paging with
        {
            Places = links.Pointer(LinksAt) is { } place ? [place] : [],
            Link = new LinkChoice(links.Text(LinkRelation) ?? "next", links.Text(LinkAddress) ?? "href"),
        };
    }
}
