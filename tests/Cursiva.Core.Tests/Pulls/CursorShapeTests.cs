using System.Net;
using System.Text.Json.Nodes;
using System.Web;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>What leads to the next page, and where it is sent.</summary>
public sealed class CursorShapeTests : IAsyncDisposable
{
    private readonly PullHarness _pulls = new();
    private readonly List<string> _sent = [];

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData("7", "7", "7")]
    [InlineData("\"a b/c\"", "\"a b/c\"", "a b/c")]
    [InlineData("""{ "id" : 9007199254740993 , "t" : "x" }""", """{"id":9007199254740993,"t":"x"}""", """{"id":9007199254740993,"t":"x"}""")]
    [InlineData("""["a",1]""", """["a",1]""", """["a",1]""")]
    [InlineData("0", "0", "0")]
    public async Task A_cursor_goes_back_as_it_came(string cursor, string inBody, string inQuery)
    {
        await _pulls.RunAsync("all: { post: /rows, body: { what: all }, rows: /items, paging: { cursor: /next, body-at: /page/after } }", request => Two(request, cursor));
        JsonNode.Parse(_sent[1])!["page"]!["after"]!.ToJsonString().ShouldBe(inBody);
        _sent.Clear();
        await _pulls.RunAsync("all: { get: /rows, rows: /items, paging: { cursor: /next, parameter: after } }", request => Two(request, cursor));
        HttpUtility.ParseQueryString(new Uri(_pulls.Requests[^1].AbsoluteUri).Query)["after"].ShouldBe(inQuery);
        _pulls.Rows["all"].ShouldBe("{\"id\":1}\n{\"id\":2}\n");
    }

    [Theory]
    [InlineData("null")]
    [InlineData("\"\"")]
    [InlineData("false")]
    [InlineData("{}")]
    [InlineData("[ ]")]
    public async Task A_cursor_that_is_empty_is_the_end(string cursor)
    {
        await _pulls.RunAsync("all: { get: /rows, rows: /items, paging: { cursor: /next, parameter: after } }", request => Two(request, cursor));
        _pulls.Requests.Count.ShouldBe(1);
        _pulls.Ends.Single().Proven.ShouldBeTrue();
    }

    [Fact]
    public async Task A_cursor_of_two_values_goes_to_two_places_and_one_value_may_go_to_several()
    {
        await _pulls.RunAsync("all: { get: /rows, rows: /items, paging: { cursor: [/next/time, /next/id], parameter: after_time, header: X-After } }", request => Two(request, """{"time":"2026-03-01T00:00:00Z","id":41}"""));
        _pulls.Requests[1].Query.ShouldBe("?after_time=2026-03-01T00%3A00%3A00Z");
        _sent[1].ShouldBe("41");
        _sent.Clear();
        await _pulls.RunAsync("all: { get: /rows, rows: /items, paging: { cursor: /next, parameter: [after, from], header: X-After } }", request => Two(request, "\"c\""));
        _pulls.Requests[^1].Query.ShouldBe("?after=c&from=c");
        _sent[1].ShouldBe("c");
    }

    [Fact]
    public async Task A_page_number_may_stand_in_the_path()
    {
        await _pulls.RunAsync("all: { get: '/rows/{page}{?size}', query: { size: '2' }, rows: /items, paging: { page-number: 1, placeholder: page, total: /total } }".Replace("{?size}", ""), request =>
        {
            var page = int.Parse(request.RequestUri!.Segments[^1]);
            return FakeServer.Json($$"""{"items":[{{string.Join(',', Enumerable.Range(1, 5).Skip((page - 1) * 2).Take(2).Select(id => $"{{\"id\":{id}}}"))}}],"total":5}""");
        });
        _pulls.Rows["all"].ShouldBe(string.Concat(Enumerable.Range(1, 5).Select(id => $"{{\"id\":{id}}}\n")));
        _pulls.Requests.Select(uri => uri.PathAndQuery).Order().ShouldBe(["/rows/1?size=2", "/rows/2?size=2", "/rows/3?size=2"]);
    }

    [Fact]
    public async Task A_cursor_in_the_path_is_left_out_of_the_first_request_and_stays_in_its_slot()
    {
        await _pulls.RunAsync("all: { get: '/rows{/at}', rows: /items, paging: { cursor: /next, placeholder: at } }", request => Two(request, "\"a/x?y\""));
        _pulls.Requests.Select(uri => uri.PathAndQuery).ShouldBe(["/rows", "/rows/a%2Fx%3Fy"]);
        _sent.Clear();
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: '/rows{/at}', rows: /items, paging: { cursor: /next, placeholder: at } }", request => Two(request, "\"../admin\"")))).Refusal.What.ShouldContain("would leave the API's base");
    }

    [Fact]
    public async Task A_keyset_of_two_values_brings_rows_that_share_the_first()
    {
        // Twelve rows, three a page, four of each time: one value alone would lose those behind a page's end.
        var rows = Enumerable.Range(0, 12).Select(id => (Time: 1 + (id / 4), Id: id)).ToList();
        await _pulls.RunAsync("all: { get: /rows, rows: /items, paging: { keyset: [/time, /id], parameter: [time, id] } }", request =>
        {
            var query = HttpUtility.ParseQueryString(request.RequestUri!.Query);
            var after = (int.Parse(query["time"] ?? "0"), int.Parse(query["id"] ?? "-1"));
            return FakeServer.Json($$"""{"items":[{{string.Join(',', rows.Where(row => row.CompareTo(after) > 0).Take(3).Select(row => $"{{\"time\":{row.Time},\"id\":{row.Id}}}"))}}]}""");
        });
        _pulls.Rows["all"].Split('\n', StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(12);
    }

    [Fact]
    public async Task A_keyset_on_one_value_that_rows_share_is_told()
    {
        await _pulls.RunAsync("all: { get: /rows, rows: /items, paging: { keyset: /time, parameter: time } }", request =>
            FakeServer.Json(request.RequestUri!.Query.Length == 0 ? """{"items":[{"time":1,"id":1},{"time":1,"id":2}]}""" : """{"items":[]}"""));
        _pulls.Warnings.ShouldContain(warning => warning.Contains("the last rows of a page share the value at keyset: /time"));
    }

    [Fact]
    public async Task A_place_of_several_that_no_page_had_is_told()
    {
        var refused = await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: /rows, rows: /items, paging: { cursor: [/nxt/time, /nxt/id], parameter: [a, b] } }", request => Two(request, """{"time":1,"id":2}""")));
        refused.Refusal.What.ShouldContain("/next");
    }

    [Fact]
    public async Task A_header_may_be_sent_several_times()
    {
        await _pulls.RunAsync("all: { get: /rows, headers: { X-Tag: [a, b], X-One: c }, rows: /items }", request =>
        {
            _sent.AddRange(request.Headers.GetValues("X-Tag").Concat(request.Headers.GetValues("X-One")));
            return FakeServer.Json("""{"items":[]}""");
        });
        _sent.ShouldBe(["a", "b", "c"]);
    }

    // Two pages: the first has the cursor.
    private HttpResponseMessage Two(HttpRequestMessage request, string cursor)
    {
        _sent.Add(request.Content is { } content ? content.ReadAsStringAsync().GetAwaiter().GetResult() : request.Headers.TryGetValues("X-After", out var after) ? string.Join(',', after) : "");
        return FakeServer.Json(_sent.Count == 1 ? $$"""{"items":[{"id":1}],"next":{{cursor}}}""" : """{"items":[{"id":2}],"next":null}""");
    }
}
