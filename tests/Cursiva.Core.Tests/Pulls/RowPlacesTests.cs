using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Rows in several places of an answer, and in batches with fields of their own.</summary>
public sealed class RowPlacesTests : IAsyncDisposable
{
    private readonly PullHarness _pulls = new();

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData("[/added, /changed]", "{\"id\":1}\n{\"id\":2}\n")]
    [InlineData("{ at: [/changed, /added], place-as: kind }", "{\"kind\":\"changed\",\"id\":2}\n{\"kind\":\"added\",\"id\":1}\n")]
    public async Task Several_arrays_of_one_answer_are_rows_of_one_table(string rows, string landed)
    {
        await _pulls.RunAsync($"all: {{ get: /rows, rows: {rows} }}", _ => FakeServer.Json("""{ "added" : [ {"id":1} ], "changed" : [{ "id":2 }] }"""));
        _pulls.Rows["all"].ShouldBe(landed);
    }

    [Fact]
    public async Task Several_arrays_lie_anywhere_beside_what_leads_on()
    {
        await _pulls.RunAsync("all: { get: /rows, rows: [/data/a, /data/in/b], paging: { cursor: /data/next, parameter: c, total: /data/total } }", request =>
            FakeServer.Json(request.RequestUri!.Query.Length == 0 ? """{"data":{"a":[{"id":1}],"next":"x","in":{"b":[{"id":2},{"id":3}]},"total":5}}""" : """{"data":{"in":{"b":[{"id":5}]},"a":[{"id":4}],"total":5}}"""));
        _pulls.Rows["all"].ShouldBe("{\"id\":1}\n{\"id\":2}\n{\"id\":3}\n{\"id\":4}\n{\"id\":5}\n");
        (_pulls.Ends.Single().Ended, _pulls.Ends.Single().Told).ShouldBe(("as many rows as the API announced", 5));
    }

    [Fact]
    public async Task A_place_that_no_page_had_is_refused_unless_it_is_optional()
    {
        var refusal = (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: /rows, rows: [/added, /chnaged] }", _ => FakeServer.Json("""{"added":[{"id":1}],"changed":[{"id":2}]}""")))).Refusal;
        refusal.What.ShouldContain("no page had rows: /chnaged");
        refusal.NextStep!.ShouldContain("optional: true");
        await _pulls.RunAsync("all: { get: /rows, rows: { at: [/added, /removed], optional: true } }", _ => FakeServer.Json("""{"added":[{"id":1}]}"""));
        _pulls.Rows["all"].ShouldBe("{\"id\":1}\n");
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: /rows, rows: { at: [/a, /b], optional: true } }", _ => FakeServer.Json("""{"c":[{"id":1}]}""")))).Refusal.What.ShouldContain("there is nothing at rows: /a or /b");
    }

    [Theory]
    [InlineData("")]
    [InlineData(", paging: { stream: array }")]
    public async Task Fields_of_a_batch_stand_beside_its_rows(string paging)
    {
        var batches = """[{"day":"2026-03-01","rows":[{"id":1},{}],"by":{"id":7}},{"day":"2026-03-02","rows":[]},{"rows":[{ "id" : 2 }]}]""";
        await _pulls.RunAsync($"all: {{ get: /rows, rows: {{ {(paging.Length == 0 ? "at: /batches, " : "")}inside: /rows, carry: {{ on: /day, by: /by/id }} }}{paging} }}", _ => FakeServer.Json(paging.Length == 0 ? $"{{\"batches\":{batches}}}" : batches));
        _pulls.Rows["all"].ShouldBe("{\"on\":\"2026-03-01\",\"by\":7,\"id\":1}\n{\"on\":\"2026-03-01\",\"by\":7}\n{\"on\":null,\"by\":null,\"id\":2}\n");
    }

    [Theory]
    [InlineData("carry: { on: /dya }", "no page had carry: /dya")]
    [InlineData("carry: { id: /day }", "already has a field 'id'")]
    public async Task What_a_batch_lacks_or_a_row_has_itself_is_refused(string carry, string told) =>
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync($"all: {{ get: /rows, rows: {{ at: /batches, inside: /rows, {carry} }} }}", _ => FakeServer.Json("""{"batches":[{"day":1,"rows":[{"id":1}]}]}"""))))
            .Refusal.What.ShouldContain(told);

    [Theory]
    [InlineData("query: { ids: '{depots.id}' }", "?ids=1%2C2", "?ids=3")]
    [InlineData("query: { id: ['{depots.id}'] }", "?id=1&id=2", "?id=3")]
    public async Task A_request_may_ask_for_a_batch_of_rows(string query, string first, string second)
    {
        await _pulls.RunAsync($"depots: {{ get: /depots, rows: /items, paging: {{ next-link: /next }} }}\nstock: {{ per: {{ pull: depots, batch: 2 }}, get: /stock, {query}, rows: /items }}", Stock);
        _pulls.Requests.Where(uri => uri.AbsolutePath == "/stock").Select(uri => uri.Query).Order().ShouldBe(new[] { first, second }.Order());
        _pulls.Rows["stock"].ShouldBe("{\"asked\":1}\n{\"asked\":2}\n");
    }

    [Fact]
    public async Task A_batch_may_stand_in_the_path_and_as_an_array_in_the_body()
    {
        var bodies = new List<string>();
        await _pulls.RunAsync("depots: { get: /depots, rows: /items, paging: { next-link: /next } }\nstock: { per: { pull: depots, batch: 50 }, post: '/stock/{depots.code}', body: { ids: '{depots.id}' }, rows: /items }", request =>
        {
            if (request.Content is { } content)
                bodies.Add($"{request.RequestUri!.PathAndQuery} {content.ReadAsStringAsync().GetAwaiter().GetResult()}");
            return Stock(request);
        });
        bodies.ShouldHaveSingleItem().ShouldBe("/stock/A,B,C {\"ids\":[1,2,3]}");
    }

    [Fact]
    public async Task Batches_are_the_same_after_a_stop_in_the_middle()
    {
        const string Pulls = "depots: { get: /depots, rows: /items, paging: { next-link: /next } }\nstock: { per: { pull: depots, batch: 2 }, get: /stock, query: { ids: '{depots.id}' }, rows: /items, parallel: 1 }";
        await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Pulls, request => request.RequestUri!.Query.Contains("ids=3") ? FakeServer.Json("{}", 403) : Stock(request), "batches"));
        _pulls.Requests.Clear();
        await _pulls.RunAsync(Pulls, Stock, "batches");
        _pulls.Requests.Where(uri => uri.AbsolutePath == "/stock").Select(uri => uri.Query).ShouldBe(["?ids=3"]);
        _pulls.Rows["stock"].ShouldBe("{\"asked\":1}\n{\"asked\":2}\n");
    }

    [Fact]
    public async Task Lists_files_and_queries_come_in_batches_too()
    {
        await _pulls.RunAsync("all: { per: { name: depot, list: [a, b, c], batch: 2 }, get: '/stock{?depot*}', rows: /items }", Stock);
        _pulls.Requests.Select(uri => uri.Query).Order().ShouldBe(["?depot=a&depot=b", "?depot=c"]);
    }

    [Fact]
    public async Task A_batch_carries_nothing()
    {
        var mistakes = await Should.ThrowAsync<JobMistakesException>(() => _pulls.RunAsync("depots: { get: /depots, rows: /items }\nstock: { per: { pull: depots, batch: 2 }, carry: { code: /code }, get: /stock, rows: /items }", Stock));
        mistakes.Mistakes.ShouldHaveSingleItem().Found.ShouldContain("requests a batch of rows at once");
    }

    // Three depots on two pages; of stock a row for each request.
    private HttpResponseMessage Stock(HttpRequestMessage request) => FakeServer.Json((request.RequestUri!.AbsolutePath, request.RequestUri.Query) switch
    {
        ("/depots", "") => """{"items":[{"id":1,"code":"A"}],"next":"/depots?page=2"}""",
        ("/depots", _) => """{"items":[{"id":2,"code":"B"},{"id":3,"code":"C"}],"next":null}""",
        (_, var query) => $$"""{"items":[{"asked":{{(query.Contains('3') ? 2 : 1)}}}]}""",
    });
}
