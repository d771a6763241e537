using System.Globalization;
using System.Text.Json.Nodes;
using System.Web;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>A pull that says done has every row that the API said there is, or says why that is not known (promise 11).</summary>
public sealed class ProofTests : IAsyncDisposable
{
    private const int All = 60;
    private const int Cap = 25;

    private readonly PullHarness _pulls = new();

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData("next-link: /next", "no-next", true)]
    [InlineData("next-link: /next, total: /count", "counted", true)]
    [InlineData("link-header: next", "no-next", true)]
    [InlineData("cursor: /cursor, parameter: from", "no-next", true)]
    [InlineData("cursor-header: X-Next-Cursor, parameter: from", "no-next", true)]
    [InlineData("cursor: /cursor, parameter: from, more: /more", "no-more", true)]
    [InlineData("cursor: /cursor, parameter: from, more: /more_number", "no-more", true)]
    [InlineData("cursor: /cursor, parameter: from, more: { at: /more_word, is: Y }", "no-more", true)]
    [InlineData("offset: 0, parameter: from, total: /count", "counted", true)]
    [InlineData("offset: 0, parameter: from, page-size: 500, size-parameter: limit, total: /count", "counted", true)]
    [InlineData("offset: 0, parameter: from, page-size: 500, size-parameter: limit", "short-page", false)]
    [InlineData("offset: 0, parameter: from", "empty-page", false)]
    [InlineData("page-number: 1, parameter: page, page-size: 500, size-parameter: limit", "short-page", false)]
    [InlineData("page-number: 1, parameter: page, pages: /pages", "last-page", true)]
    [InlineData("keyset: /id, parameter: after, page-size: 500, size-parameter: limit", "short-page", false)]
    [InlineData("keyset: /id, parameter: after", "empty-page", false)]
    public async Task Every_listing_comes_whole_and_ends_for_a_reason_with_at_most_one_request_more_than_needed(string paging, string ended, bool proven)
    {
        await RunAsync($"paging: {{ {paging} }}");
        Ids().ShouldBe(Enumerable.Range(1, All));
        var end = _pulls.Ends.Single();
        (end.Rows, end.Proven).ShouldBe((All, proven));
        end.Ended.ShouldBe(Core.Pulls.Ending.Of(ended)!.Words);
        end.Told.ShouldBe(paging.Contains("total") ? All : null);
        _pulls.Requests.Count.ShouldBeLessThanOrEqualTo(((All + Cap - 1) / Cap) + 1);
    }

    [Theory]
    [InlineData("next-link: /nxt", "next-link: /nxt", "/next")]
    [InlineData("cursor: /meta/next, parameter: from", "cursor: /meta/next", "/next")]
    [InlineData("link-header: nxt", "link-header: nxt", "a Link header with rel=next")]
    [InlineData("cursor-header: X-Nxt, parameter: from", "cursor-header: X-Nxt", "the header X-Next-Cursor")]
    [InlineData("next-link: /next, total: /cuont", "total: /cuont", "/count")]
    [InlineData("page-number: 1, parameter: page, pages: /pgs", "pages: /pgs", "")]
    [InlineData("cursor: /cursor, parameter: from, more: /hasmore", "more: /hasmore", "")]
    public async Task A_declared_place_that_was_on_no_page_is_refused_and_the_page_shown(string paging, string place, string nearest)
    {
        var refusal = await RefusedAsync($"paging: {{ {paging} }}");
        refusal.Outcome.ShouldBe(Outcome.ApiFailed);
        refusal.What.ShouldContain(place);
        refusal.What.ShouldContain(nearest);
    }

    [Fact]
    public async Task A_listing_of_one_page_that_leaves_the_place_out_is_believed_where_nothing_hints_at_more()
    {
        await RunAsync("paging: { next-link: /next }", _ => FakeServer.Json("""{"items":[{"id":1},{"id":2},{"id":3}]}"""));
        _pulls.Ends.Single().Proven.ShouldBeFalse();
        _pulls.Warnings.ShouldContain(warning => warning.Contains("no page had next-link: /next"));
        (await RefusedAsync("paging: { next-link: /next }", _ => Rows(1, 50))).What.ShouldContain("exactly 50 rows");
        await RunAsync("paging: { next-link: /next, optional: true }", _ => Rows(1, 50));
        _pulls.Ends.Single().Rows.ShouldBe(50);
    }

    [Theory]
    [InlineData("""{"items":[{"id":1}],"next":"/x?p=2"}""", "/next")]
    [InlineData("""{"items":[{"id":1}],"meta":{"cursor":"abc"}}""", "/meta/cursor")]
    [InlineData("""{"items":[{"id":1}],"has_more":true}""", "/has_more")]
    [InlineData("""{"items":[{"id":1}],"total":60}""", "/total is 60, and 1 row came")]
    public async Task Signs_of_another_page_are_told_where_no_paging_is_declared(string page, string hint)
    {
        await RunAsync("", _ => FakeServer.Json(page));
        _pulls.Warnings.Single().ShouldContain("declares no paging:, and its page hints at another one: " + hint);
        _pulls.Ends.Single().Proven.ShouldBeFalse();
    }

    [Fact]
    public async Task Exactly_a_round_number_of_rows_is_told()
    {
        await RunAsync("", _ => Rows(1, 100));
        _pulls.Warnings.Single().ShouldContain("exactly 100 rows");
    }

    [Fact]
    public async Task Nothing_is_told_where_nothing_hints_at_more()
    {
        await RunAsync("", _ => FakeServer.Json("""{"items":[{"id":1,"next":"inside a row"}],"next":null,"has_more":false,"total":1,"errors":[]}"""));
        _pulls.Warnings.ShouldBeEmpty();
        await RunAsync("rows: { one: true }", _ => FakeServer.Json("""{"id":1}"""), rows: "");
        _pulls.Ends.Single().Proven.ShouldBeTrue();
    }

    [Theory]
    [InlineData("next-link: /next, total: /told")]
    [InlineData("cursor: /cursor, parameter: from, total: /told")]
    [InlineData("offset: 0, parameter: from, total: /told")]
    [InlineData("page-number: 1, parameter: page, total: /told")]
    public async Task Fewer_rows_than_the_API_tells_are_refused_after_a_second_look(string paging)
    {
        var refusal = await RefusedAsync($"paging: {{ {paging} }}");
        refusal.What.ShouldMatch("after 60 of the 61 rows|60 rows came before it, and the API announced 61 rows");
        _pulls.Requests.GroupBy(request => request.PathAndQuery).Max(group => group.Count()).ShouldBeGreaterThan(1);
        await RunAsync($"paging: {{ {paging.Replace("offset", "cursor: /cursor, x").Split(", x")[0]}, allow-missing: 5% }}".Replace("page-number: 1, parameter: page", "cursor: /cursor, parameter: from").Replace("cursor: /cursor, allow", "cursor: /cursor, parameter: from, total: /told, allow"));
        Ids().ShouldBe(Enumerable.Range(1, All));
        _pulls.Ends.Single().Proven.ShouldBeFalse();
    }

    [Theory]
    [InlineData("offset: 0, parameter: from, total: /count", """{"items":[]}""")]
    [InlineData("offset: 0, parameter: from, total: /count", """{"items":null,"error":"try later","count":60}""")]
    [InlineData("offset: 0, parameter: from", """{"items":null,"error":{"code":7}}""")]
    [InlineData("page-number: 1, parameter: page, pages: /pages", """{"items":[],"pages":3}""")]
    [InlineData("page-number: 1, parameter: page, pages: /pages", """{"items":null,"errors":["x"],"pages":3}""")]
    [InlineData("next-link: /next", """{"items":null,"error":"try later"}""")]
    [InlineData("keyset: /id, parameter: after", """{"items":[],"errors":[{"message":"down"}]}""")]
    public async Task An_empty_or_an_error_page_in_the_middle_is_looked_at_again_and_ends_nothing(string paging, string odd)
    {
        // Once: the second look brings the page.
        var seen = 0;
        await RunAsync($"paging: {{ {paging} }}", request => IsMiddle(request) && Interlocked.Increment(ref seen) == 1 ? FakeServer.Json(odd) : Page(request));
        Ids().ShouldBe(Enumerable.Range(1, All));

        // Always: refused.
        await RefusedAsync($"paging: {{ {paging} }}", request => IsMiddle(request) ? FakeServer.Json(odd) : Page(request));
    }

    [Theory]
    [InlineData("""{"items":[{"id":1}],"more":"Y","cursor":"2"}""", "write more: { at: /more, is: VALUE }")]
    [InlineData("""{"items":[{"id":1}],"more":7,"cursor":"2"}""", "write more: { at: /more, is: VALUE }")]
    [InlineData("""{"items":[{"id":1}],"more":true}""", "nothing leads to it")]
    [InlineData("""{"items":[{"id":1}],"more":1,"cursor":""}""", "nothing leads to it")]
    [InlineData("""{"items":[{"id":1}],"more":"true","cursor":null}""", "nothing leads to it")]
    public async Task What_says_that_more_follows_is_understood_or_refused(string page, string what) =>
        (await RefusedAsync("paging: { cursor: /cursor, parameter: from, more: /more }", _ => FakeServer.Json(page))).What.ShouldContain(what);

    [Theory]
    [InlineData("page-number: 1, parameter: page", "the parameter page")]
    [InlineData("offset: 0, parameter: from", "the parameter from")]
    [InlineData("cursor: /cursor, parameter: from", "the parameter from")]
    [InlineData("next-link: /next", "its own link at /next")]
    public async Task A_listing_that_gives_the_same_rows_again_is_refused(string paging, string ignored)
    {
        var number = 0;
        var refusal = await RefusedAsync($"paging: {{ {paging} }}", _ => FakeServer.Json($$"""{"items":[{"id":1},{"id":2}],"next":"/x?n={{Interlocked.Increment(ref number)}}","cursor":"c{{number}}"}"""));
        refusal.What.ShouldContain("would never end");
        refusal.Cause!.ShouldContain(ignored);
        number.ShouldBeLessThan(5);
        _pulls.Rows["p"].ShouldBe("{\"id\":1}\n{\"id\":2}\n");
    }

    [Theory]
    [InlineData("most-pages: 7", "more than 7 pages")]
    [InlineData("most-rows: 15", "more than 15 rows")]
    public async Task A_listing_has_no_more_pages_and_rows_than_the_job_allows(string bound, string why)
    {
        var number = 0;
        (await RefusedAsync($"paging: {{ next-link: /next, {bound} }}", _ => FakeServer.Json($$"""{"items":[{"id":{{Interlocked.Increment(ref number)}}},{"v":{{number}}}],"next":"/x?n={{number}}"}"""))).What.ShouldContain(why);
        number.ShouldBeLessThan(12);
    }

    [Fact]
    public async Task An_error_with_status_200_is_an_error_and_may_be_tried_again()
    {
        var seen = 0;
        const string failed = """{"items":[{"id":1}],"errors":[{"message":"half of it"}]}""";
        (await RefusedAsync("fail-when: [{ at: /errors }]", _ => FakeServer.Json(failed))).Quote!.ShouldContain("half of it");
        _pulls.Requests.Count.ShouldBe(1);
        await RunAsync("fail-when: [{ at: /errors, again: true }]", _ => Interlocked.Increment(ref seen) < 3 ? FakeServer.Json(failed) : FakeServer.Json("""{"items":[{"id":1}],"errors":[]}"""));
        seen.ShouldBe(3);
        (await RefusedAsync("fail-when: [{ at: /state, is: down }]", _ => FakeServer.Json("""{"items":[],"state":"down"}"""))).What.ShouldContain("at /state");
    }

    [Fact]
    public async Task A_broken_branch_is_skipped_once_its_attempts_are_used_up()
    {
        await RunAsync("per: { name: t, list: [a, b, c] }\n  skip-when: [{ status: 500, because: broken }]", request => request.RequestUri!.Query.Contains('b') ? FakeServer.Json("{}", 500) : Rows(1, 3), query: "{?t}");
        _pulls.Strands.Where(strand => strand.Skip is not null).Select(strand => strand.Skip!.Because).ShouldBe(["broken"]);
        _pulls.Requests.Count(request => request.Query.Contains('b')).ShouldBe(2);
        _pulls.Ends.Single().Rows.ShouldBe(6);
    }

    [Fact]
    public async Task What_is_carried_comes_from_any_depth_and_what_is_found_nowhere_is_refused()
    {
        const string pulls = """
            a: { get: /a, rows: '' }
            b: { per: a, carry: { country: /land }, get: "/b/{a.id}", rows: '' }
            c: { per: b, carry: { country: /country, town: /name }, get: "/c/{b.id}", rows: '' }
            """;
        HttpResponseMessage Answer(HttpRequestMessage request) => FakeServer.Json(request.RequestUri!.AbsolutePath switch
        {
            "/a" => """[{"id":1,"land":"no"}]""",
            "/b/1" => """[{"id":2,"name":"Northquay"}]""",
            _ => """[{"id":3}]""",
        });
        await _pulls.RunAsync(pulls, Answer);
        _pulls.Strands[^1].Carried.ShouldBe("""{"country":"no","town":"Northquay"}""");
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(pulls.Replace("/country", "/cuontry"), Answer))).Refusal.What.ShouldContain("no row that it is repeated for has anything there");
    }

    private Task RunAsync(string keys, Func<HttpRequestMessage, HttpResponseMessage>? answer = null, string rows = "rows: /items", string query = "")
    {
        _pulls.Warnings.Clear();
        _pulls.Requests.Clear();
        return _pulls.RunAsync($"p:\n  get: '/x{query}'\n  {rows}\n  {keys}\n  key: /id", answer ?? Page);
    }

    private async Task<Refusal> RefusedAsync(string keys, Func<HttpRequestMessage, HttpResponseMessage>? answer = null) =>
        (await Should.ThrowAsync<RefusedException>(() => RunAsync(keys, answer))).Refusal;

    private IEnumerable<int> Ids() => _pulls.Rows["p"].Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(line => (int)JsonNode.Parse(line)!["id"]!);

    private static bool IsMiddle(HttpRequestMessage request) => From(request) is > 0 and < 50;

    private static int From(HttpRequestMessage request)
    {
        var query = HttpUtility.ParseQueryString(request.RequestUri!.Query);
        return query["page"] is { } page ? (int.Parse(page, CultureInfo.InvariantCulture) - 1) * Cap : int.Parse(query["from"] ?? query["after"] ?? "0", CultureInfo.InvariantCulture);
    }

    // An API that gives at most 25 rows whatever it is asked for, and tells everything in every way.
    private static HttpResponseMessage Page(HttpRequestMessage request)
    {
        var from = From(request);
        var to = Math.Min(from + Cap, All);
        var next = to < All ? $"https://x.example/x?from={to}" : null;
        var answer = FakeServer.Json(new JsonObject
        {
            ["count"] = All,
            ["told"] = All + 1,
            ["pages"] = (All + Cap - 1) / Cap,
            ["items"] = Items(from, to),
            ["next"] = next,
            ["cursor"] = next is null ? null : $"{to}",
            ["more"] = next is not null,
            ["more_number"] = next is null ? 0 : 1,
            ["more_word"] = next is null ? "N" : "Y",
        }.ToJsonString());
        if (next is not null)
        {
            answer.Headers.TryAddWithoutValidation("Link", $"<{next}>; rel=\"next\"");
            answer.Headers.TryAddWithoutValidation("X-Next-Cursor", $"{to}");
        }

        return answer;
    }

    private static HttpResponseMessage Rows(int first, int count) => FakeServer.Json(new JsonObject { ["items"] = Items(first - 1, first - 1 + count) }.ToJsonString());

    private static JsonArray Items(int from, int to) => [.. Enumerable.Range(from + 1, Math.Max(0, to - from)).Select(id => new JsonObject { ["id"] = id })];
}
