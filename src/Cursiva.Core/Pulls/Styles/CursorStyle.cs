using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>A page or its headers have a cursor, which is sent back as it came: a text, a number, or an object.</summary>
internal sealed class CursorStyle(Paging paging) : SendingPager(paging)
{
    public override string Words(Pull pull) =>
        $"cursor {(Paging.AnswerHeader is { } header ? $"in header {header}" : $"at {string.Join(" and ", Paging.Places)}")} sent back {Targets}";

    protected override IReadOnlyList<string> Values(string position) => SentValues.Split(position, Paging.Places.Count);

    protected override Way Behind(PageFacts page, string? position)
    {
        if (Paging.AnswerHeader is not { } name)
            return Named(page.Scan.Next, page.Scan.HasNext, page);
        var cursor = page.Answer.Header(name);
        return Named(
            string.IsNullOrEmpty(cursor) ? null : JsonSerializer.Serialize(cursor, PlainJson.Default.String), cursor is not null, page);
    }
}
