using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>A page or its headers have a cursor, which is sent back as it came: a text, a number, or an object.</summary>
internal sealed class CursorStyle(Paging paging) : SendingPager(paging)
{
    private static readonly Key Cursor = new(
        "cursor",
        KeyKind.Pointers,
        "the place of the next page's cursor in a page: a text, number, object or array; null, empty or missing on the last page. A list of places sends back several values")
    { Example = "/page/cursor" };
    private static readonly Key Header = new("cursor-header", KeyKind.Text, "the response header with the next page's cursor")
    {
        Example = "X-Next-Cursor",
    };

    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(paging => new CursorStyle(paging))
    {
        Keys = [Cursor, Header],
        SendsValues = true,
        MayLeadToChanges = true,
        Read = (section, _, paging) => paging with { Places = section.Pointers(Cursor), AnswerHeader = section.Text(Header) },
    };

    public override (string Key, string Text)? NextPlace =>
        Paging.AnswerHeader is { } header ? (Header.Name, header) : (Cursor.Name, Paging.At?.Text ?? "");

    public override IReadOnlyList<JsonPointer> NextPlaces => Paging.Places;

    public override string Words(Pull pull) =>
        $"cursor {(Paging.AnswerHeader is { } header ? $"in header {header}" : $"at {string.Join(" and ", Paging.Places)}")} sent back {Targets}";

    public override string? NextIn(PageBuffer page, TokenIndex index, IReadOnlyList<int> places) => PageTokens.Cursor(page, index, places);

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
