using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>A Link header has the link to the next page (RFC 8288).</summary>
internal sealed class LinkHeaderStyle(Paging paging) : LinkPager(paging)
{
    private static readonly Key Relation = new(
        "link-header", KeyKind.Text, "the relation in the Link header (RFC 8288) that leads to the next page")
    { Example = "next" };

    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(paging => new LinkHeaderStyle(paging))
    {
        Keys = [Relation],
        MayLeadToChanges = true,
        Read = (section, _, paging) => paging with { AnswerHeader = section.Text(Relation) },
    };

    public override (string Key, string Text)? NextPlace => (Relation.Name, Paging.AnswerHeader!);

    public override string WayOn => "its own Link header";

    public override string Words(Pull pull) => $"Link header, relation {Paging.AnswerHeader}";

    protected override Way Behind(PageFacts page, string? position)
    {
        var header = page.Answer.Header("Link");
        var link = header is null ? null : LinkHeader.Find(header, Paging.AnswerHeader!, page.Uri);
        return Named(Resolved(page, link), header is not null && LinkHeader.Find(header, "next", page.Uri) is null, page);
    }
}
