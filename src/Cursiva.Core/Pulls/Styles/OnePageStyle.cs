using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>The listing has one page.</summary>
internal sealed class OnePageStyle(Paging paging) : Pager(paging)
{
    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(paging => new OnePageStyle(paging)) { HasOnePage = true };

    public override string WayOn => "nothing";

    public override string Words(Pull pull) => "one page";

    public override AskedPage Ask(AskedPage first, string position) => first;

    protected override Way Behind(PageFacts page, string? position) => Way.End(Ending.OnePage);
}
