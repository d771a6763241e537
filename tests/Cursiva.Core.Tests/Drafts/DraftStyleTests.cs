using System.Text.Json.Nodes;

namespace Cursiva.Core.Tests.Drafts;

/// <summary>Every way in which APIs page: the draft finds it within its requests, and the drafted job walks to the end.</summary>
public sealed class DraftStyleTests : IAsyncDisposable
{
    private readonly DraftFixture _at = new();

    public ValueTask DisposeAsync() => _at.DisposeAsync();

    public static TheoryData<string, string> Styles => new()
    {
        { "links", "{ next-link: /paging/next }" },
        { "relative link", "{ next-link: /next, total: /count }" },
        { "path in a link", "{ next-link: /nextRecordsUrl, total: /totalSize }" },
        { "dotted name", "{ next-link: \"/@x.nextLink\" }" },
        { "nested href", "{ next-link: /_links/next/href }" },
        { "link without a slash", "{ next-link: /next }" },
        { "array of links", "{ next-link: { at: /feed/link, address: url } }" },
        { "page token", "{ cursor: /nextPageToken, parameter: pageToken }" },
        { "cursor in meta", "{ cursor: /meta/next_cursor, parameter: cursor, total: /meta/total }" },
        { "end cursor", "{ cursor: /page/endCursor, parameter: after }" },
        { "continuation", "{ cursor: /continuationToken, parameter: continuationToken }" },
        { "next page number", "{ cursor: /next, parameter: page }" },
        { "next offset", "{ cursor: /nextOffset, parameter: offset }" },
        { "page in a header", "{ cursor-header: X-Next-Page, parameter: page }" },
        { "more and the last id", "{ keyset: /id, parameter: starting_after }" },
        { "page and pages", "{ page-number: 1, parameter: page, pages: /total_pages }" },
        { "page in brackets", "{ page-number: 1, parameter: \"page[number]\", pages: /meta/page/totalPages }" },
        { "page from 0", "{ page-number: 0, parameter: page, total: /totalElements }" },
        { "start and total", "{ offset: 0, parameter: startAt, total: /total }" },
        { "skip", "{ offset: 0, parameter: skip }" },
        { "start and found", "{ offset: 0, parameter: start, total: /response/numFound }" },
        { "offset with more", "{ offset: 0, parameter: offset, more: /has_more }" },
        { "total in a header", "{ page-number: 1, parameter: page, total-header: X-Total-Count }" },
        { "graph", "{ cursor: /data/rows/pageInfo/endCursor, body-at: /variables/after, total: /data/rows/totalCount }" },
    };

    [Theory]
    [MemberData(nameof(Styles))]
    public async Task A_listing_is_drafted_and_its_job_brings_every_row(string style, string paging)
    {
        string? Api(Ask ask) => Answer(style, ask);
        var body = style == "graph" ? """{"query":"{ rows }","variables":{"first":20,"after":null}}""" : null;
        var drafted = await _at.DraftAsync(Api, style == "start and found" ? "/rows?start=0" : "/rows", body);
        _at.Asked.Count.ShouldBeLessThanOrEqualTo(12);
        drafted.Text.ShouldContain($"paging: {paging}", customMessage: drafted.Text);
        drafted.Text.ShouldContain("# proven: ");
        var rows = await _at.RowsAsync(drafted, Api);
        rows.Count.ShouldBe(Ask.All);
        rows.Distinct().Count().ShouldBe(Ask.All);
    }

    // What is not asked for by its own name is ignored, as most APIs do.
    private static string? Answer(string style, Ask ask)
    {
        var page = ask.Number("page", 1);
        switch (style)
        {
            case "links":
                var from = ask.Number("from", 0);
                return $$"""{"data":[{{Ask.Rows(from)}}],"paging":{"next":{{(Ask.Follows(from) ? $"\"{DraftFixture.Base}/rows?from={from + 20}\"" : "null")}} } }""";
            case "relative link":
                return $$"""{"count":95,"next":{{(Ask.Follows((page - 1) * 20) ? $"\"/v2/rows?page={page + 1}\"" : "null")}},"previous":null,"results":[{{Ask.Rows((page - 1) * 20)}}]}""";
            case "path in a link":
                return $$"""{"totalSize":95,"done":false,"records":[{{Ask.Rows((page - 1) * 20)}}]{{(Ask.Follows((page - 1) * 20) ? $",\"nextRecordsUrl\":\"/v2/rows?page={page + 1}\"" : "")}} }""";
            case "dotted name":
                return $$"""{"value":[{{Ask.Rows((page - 1) * 20)}}]{{(Ask.Follows((page - 1) * 20) ? $",\"@x.nextLink\":\"{DraftFixture.Base}/rows?page={page + 1}\"" : "")}} }""";
            case "nested href":
                return $$"""{"_embedded":{"rows":[{{Ask.Rows((page - 1) * 20)}}]},"_links":{"self":{"href":"/v2/rows"}{{(Ask.Follows((page - 1) * 20) ? $$""","next":{"href":"/v2/rows?page={{page + 1}}"}""" : "")}} } }""";
            case "link without a slash":
                return $$"""{"rows":[{{Ask.Rows((page - 1) * 20)}}],"next":{{(Ask.Follows((page - 1) * 20) ? $"\"rows?page={page + 1}\"" : "null")}} }""";
            case "array of links":
                return $$"""{"feed":{"entry":[{{Ask.Rows((page - 1) * 20)}}],"link":[{"rel":"self","url":"/v2/rows"}{{(Ask.Follows((page - 1) * 20) ? $$""",{"rel":"next","url":"/v2/rows?page={{page + 1}}"}""" : "")}}]} }""";
            case "page token":
                return Cursor(ask, "pageToken", (rows, next) => $$"""{"items":[{{rows}}]{{(next is null ? "" : $",\"nextPageToken\":\"{next}\"")}} }""");
            case "cursor in meta":
                return Cursor(ask, "cursor", (rows, next) => $$"""{"data":[{{rows}}],"meta":{"total":95,"next_cursor":{{(next is null ? "null" : $"\"{next}\"")}} } }""");
            case "end cursor":
                return Cursor(ask, "after", (rows, next) => $$"""{"rows":[{{rows}}],"page":{"hasNextPage":{{(next is null ? "false" : "true")}},"endCursor":{{(next is null ? "null" : $"\"{next}\"")}} } }""");
            case "continuation":
                return Cursor(ask, "continuationToken", (rows, next) => $$"""{"rows":[{{rows}}]{{(next is null ? "" : $",\"continuationToken\":\"{next}\"")}} }""");
            case "next page number":
                return $$"""{"results":[{{Ask.Rows((page - 1) * 20)}}],"next":{{(Ask.Follows((page - 1) * 20) ? $"{page + 1}" : "null")}} }""";
            case "next offset":
                var offset = ask.Number("offset", 0);
                return $$"""{"rows":[{{Ask.Rows(offset)}}],"nextOffset":{{(Ask.Follows(offset) ? $"{offset + 20}" : "null")}} }""";
            case "page in a header":
                if (Ask.Follows((page - 1) * 20))
                    ask.Told["X-Next-Page"] = $"{page + 1}";
                return $"[{Ask.Rows((page - 1) * 20)}]";
            case "more and the last id":
                var behind = ask.Number("starting_after", 999) - 999;
                return $$"""{"object":"list","has_more":{{(Ask.Follows(behind) ? "true" : "false")}},"data":[{{Ask.Rows(behind)}}]}""";
            case "page and pages":
                return $$"""{"page":{{page}},"per_page":20,"total_pages":5,"data":[{{Ask.Rows((page - 1) * 20)}}]}""";
            case "page in brackets":
                var number = ask.Number("page[number]", 1);
                return $$"""{"data":[{{Ask.Rows((number - 1) * 20)}}],"meta":{"page":{"number":{{number}},"size":20,"totalPages":5} } }""";
            case "page from 0":
                var zero = ask.Number("page", 0);
                return $$"""{"content":[{{Ask.Rows(zero * 20)}}],"number":{{zero}},"totalElements":95,"last":{{(Ask.Follows(zero * 20) ? "false" : "true")}} }""";
            case "start and total":
                var start = ask.Number("startAt", 0);
                return $$"""{"startAt":{{start}},"maxResults":20,"total":95,"issues":[{{Ask.Rows(start)}}]}""";
            case "skip":
                return $"[{Ask.Rows(ask.Number("skip", 0))}]";
            case "start and found":
                var first = ask.Number("start", 0);
                return $$"""{"response":{"numFound":95,"start":{{first}},"docs":[{{Ask.Rows(first)}}]} }""";
            case "offset with more":
                var at = ask.Number("offset", 0);
                return $$"""{"offset":{{at}},"rows":[{{Ask.Rows(at)}}],"has_more":{{(Ask.Follows(at) ? "true" : "false")}} }""";
            case "total in a header":
                ask.Told["X-Total-Count"] = "95";
                return $"[{Ask.Rows((page - 1) * 20)}]";
            case "graph":
                var cursor = JsonNode.Parse(ask.Body)!["variables"]!["after"]?.ToString();
                var row = cursor is null ? 0 : int.Parse(cursor[1..], System.Globalization.CultureInfo.InvariantCulture);
                return $$"""{"data":{"rows":{"totalCount":95,"nodes":[{{Ask.Rows(row)}}],"pageInfo":{"hasNextPage":{{(Ask.Follows(row) ? "true" : "false")}},"endCursor":{{(Ask.Follows(row) ? $"\"c{row + 20}\"" : "null")}} } } } }""";
            default:
                return null;
        }
    }

    private static string? Cursor(Ask ask, string parameter, Func<string, string?, string> page)
    {
        var first = ask.Query.TryGetValue(parameter, out var cursor) ? cursor.StartsWith('c') ? int.Parse(cursor[1..], System.Globalization.CultureInfo.InvariantCulture) : -1 : 0;
        return first < 0 ? null : page(Ask.Rows(first), Ask.Follows(first) ? $"c{first + 20}" : null);
    }
}
