using System.Text.Json.Nodes;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Deliveries;

namespace Cursiva.Core.Tests.Writes;

/// <summary>Items of writes: planned, sent once, looked up where they are in doubt (promise 14).</summary>
public sealed class WriteDeskTests : IAsyncLifetime
{
    private const string Three = """[{"id":1,"name":"one","page":"a"},{"id":2,"name":"two","page":"b"},{"id":3,"name":"three","page":"c"}]""";

    private WriteFixture _at = null!;

    public ValueTask InitializeAsync()
    {
        _at = new WriteFixture();
        return ValueTask.CompletedTask;
    }

    public ValueTask DisposeAsync() => _at.DisposeAsync();

    [Fact]
    public async Task Items_are_made_changed_or_left_alone()
    {
        _at.Office.Add("two");
        var first = (await _at.RunAsync(WriteFixture.FindOrCreate, Three, keys: "only-if-changed: true"))!;
        (first.Phase, first.Said, first.To).ShouldBe((LedgerPhase.Sent, "update 1, create 2", "office: 3 items"));
        _at.Told.ShouldContain("documents-1: update 1, create 2");
        _at.Office.Documents.Select(document => $"{document["title"]} {document["body"]}").Order().ShouldBe(["one a", "three c", "two b"]);
        _at.Rows.Select(row => $"{row.Item} {row.Step} {row.State}").ShouldBe(["[1] create sent", "[2] update sent", "[3] create sent"]);

        _at.Office.Requests.Clear();
        (await _at.RunAsync(WriteFixture.FindOrCreate, Three, run: 2, keys: "only-if-changed: true"))!.Said.ShouldBe("unchanged 3");
        _at.Office.Requests.ShouldBeEmpty();
        _at.Rows.Select(row => row.State).ShouldBe(["unchanged", "unchanged", "unchanged"]);

        (await _at.RunAsync(WriteFixture.FindOrCreate, Three.Replace("\"b\"", "\"new\""), run: 3, keys: "only-if-changed: true"))!.Said.ShouldBe("update 1, unchanged 2");
        _at.Office.Documents.Single(document => document["title"]!.ToString() == "two")["body"]!.ToString().ShouldBe("new");
        Directory.Exists(_at["outbox/documents-1"]).ShouldBeFalse();
    }

    [Fact]
    public async Task What_a_look_brings_already_is_not_sent_again()
    {
        _at.Office.Add("one", "a");
        _at.Office.Add("two", "other");
        (await _at.RunAsync(WriteFixture.FindOrCreate, Three, keys: "only-if-changed: true"))!.Said.ShouldBe("update 1, create 1, unchanged 1");
        _at.Office.Requests.Count(request => request.StartsWith("PATCH")).ShouldBe(1);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_process_that_ends_at_any_request_leaves_one_document_for_each_row(bool done)
    {
        for (var request = 1; request <= 3; request++)
        {
            await using var at = new WriteFixture();
            at.Office.DiesAt = request;
            at.Office.DoneBefore = done;
            await Should.ThrowAsync<Exception>(() => at.RunAsync(WriteFixture.FindOrCreate, Three, keys: "parallel: 1"));
            (await at.RunAsync(WriteFixture.FindOrCreate, Three, keys: "parallel: 1"))!.Phase.ShouldBe(LedgerPhase.Sent);
            at.Office.Documents.Select(document => document["title"]!.ToString()).Order().ToList().ShouldBe(new List<string> { "one", "three", "two" }, $"died at {request}");
        }
    }

    [Theory]
    [InlineData(WriteFixture.FindOrCreate, "", 3, 3)]
    [InlineData("create: { post: /documents, idempotency-key: true, body: { title: \"{row.name}\" } }", "", 3, 3)]
    [InlineData("create: { post: /documents, body: { title: \"{row.name}\" } }", "when-in-doubt: hold", 0, 3)]
    [InlineData("create: { post: /documents, body: { title: \"{row.name}\" } }", "when-in-doubt: repeat", 3, 6)]
    public async Task A_process_that_ends_at_any_write_of_the_ledger_sends_each_item_once(string steps, string keys, int least, int most)
    {
        for (var writes = 0; ; writes++)
        {
            await using var at = new WriteFixture();
            var died = false;
            try
            {
                await at.RunAsync(steps, Three, keys: keys + "\nparallel: 1", state: new DyingState(at.State, writes));
            }
            catch (DyingState.DeadException)
            {
                died = true;
            }

            await at.RunAsync(steps, Three, keys: keys + "\nparallel: 1");
            at.Office.Documents.Count.ShouldBeInRange(least, most, $"after {writes} writes of the ledger");
            if (keys.Length == 0)
                at.Office.Documents.Select(document => document["title"]!.ToString()).Order().ShouldBe(["one", "three", "two"]);
            if (!died)
            {
                writes.ShouldBeGreaterThan(6);
                return;
            }
        }
    }

    [Theory]
    [InlineData("hold", LedgerPhase.InDoubt, 1)]
    [InlineData("repeat", LedgerPhase.Sent, 2)]
    public async Task A_lost_answer_that_nobody_can_be_asked_about_is_held_or_repeated(string doubt, LedgerPhase phase, int documents)
    {
        const string Steps = "create: { post: /documents, body: { title: \"{row.name}\" } }";
        const string One = """[{"id":1,"name":"one"}]""";
        _at.Office.AnswersLost = 1;
        var lost = (await _at.RunAsync(Steps, One, keys: $"when-in-doubt: {doubt}"))!;
        (lost.Phase, _at.Office.Documents.Count).ShouldBe((LedgerPhase.InDoubt, 1));
        lost.Said.ShouldContain("in doubt 1; 1: API 'office' gave no complete answer");
        _at.Rows.ShouldHaveSingleItem().State.ShouldBe("in doubt");
        ((await _at.RunAsync(Steps, One, keys: $"when-in-doubt: {doubt}"))!.Phase, _at.Office.Documents.Count).ShouldBe((phase, documents));
    }

    [Theory]
    [InlineData(LedgerPhase.Sent, 1)]
    [InlineData(LedgerPhase.Ready, 2)]
    [InlineData(LedgerPhase.GivenUp, 1)]
    public async Task Somebody_decides_about_items_in_doubt(LedgerPhase decision, int documents)
    {
        const string Steps = "create: { post: /documents, body: { title: \"{row.name}\" } }";
        const string One = """[{"id":1,"name":"one"}]""";
        _at.Office.AnswersLost = 1;
        await _at.RunAsync(Steps, One);
        await _at.DecideAsync(Steps, decision);
        await _at.RunAsync(Steps, One);
        _at.Office.Documents.Count.ShouldBe(documents);
    }

    [Fact]
    public async Task A_lost_answer_is_looked_up_at_once()
    {
        _at.Office.AnswersLost = 1;
        (await _at.RunAsync(WriteFixture.FindOrCreate, Three, keys: "parallel: 1"))!.Phase.ShouldBe(LedgerPhase.Sent);
        _at.Office.Documents.Count.ShouldBe(3);
    }

    [Fact]
    public async Task A_change_whose_answer_was_lost_is_compared_and_not_sent_again()
    {
        _at.Office.Add("one");
        _at.Office.AnswersLost = 1;
        (await _at.RunAsync(WriteFixture.FindOrCreate, """[{"id":1,"name":"one","page":"a"}]"""))!.Phase.ShouldBe(LedgerPhase.Sent);
        _at.Office.Requests.Count(request => request.StartsWith("PATCH")).ShouldBe(1);
    }

    [Fact]
    public async Task A_thing_that_changed_meanwhile_is_looked_at_again_once()
    {
        const string Steps = """
            find: { get: "/documents/{row.doc}" }
            update: { put: "/documents/{find.id}", if-match: "{find.etag}", body: { title: "{find.title}", body: "{row.page}" } }
            """;
        var document = _at.Office.Add("one");
        var refusals = 1;
        _at.Office.Instead = request => request.Method == HttpMethod.Put && refusals-- > 0 ? Changed(document) : null;
        var items = $$"""[{"id":1,"doc":{{document["id"]}},"page":"a"}]""";
        (await _at.RunAsync(Steps, items))!.Phase.ShouldBe(LedgerPhase.Sent);
        _at.Office.Sent.Where(request => request.Method == HttpMethod.Put).Select(request => request.Headers.IfMatch.Single().Tag).ShouldBe(["\"v1\"", "\"v2\""]);

        refusals = 2;
        var refused = (await _at.RunAsync(Steps, items, run: 2))!;
        refused.Phase.ShouldBe(LedgerPhase.Refused);
        refused.Said.ShouldContain("was answered with status 412, even after a second lookup");

        static HttpResponseMessage Changed(JsonObject document)
        {
            document["version"] = (int)document["version"]! + 1;
            return FakeOffice.Json("{}", 412);
        }
    }

    [Theory]
    [InlineData("""find: { get: "/documents{?title}", query: { title: "{row.name}" }, rows: /items, where: { /title: "{row.name}" } }""", "found nothing with /title 'one'")]
    [InlineData("""find: { get: /documents, rows: /items }""", "found several")]
    [InlineData("""find: { get: "/documents{?title}", query: { title: tw }, rows: /items, where: { /body: same } }""", "found several with /body 'same', so it is unclear which one to use")]
    [InlineData("""find: { get: "/documents/{row.nothing}" }""", "{row.nothing} in the path of step 'find' has no value")]
    [InlineData("""find: { get: /documents, rows: /rows }""", "does not match rows: and paging:")]
    [InlineData("""find: { get: /boards, rows: /items, where: { /name: "{row.board}" } }""", "found nothing with /name 'None'")]
    public async Task A_name_that_finds_none_or_two_refuses_the_item_and_never_guesses(string find, string said)
    {
        _at.Office.Add("two", "same");
        _at.Office.Add("twin", "same");
        var refused = (await _at.RunAsync(find + "\nupdate: { put: \"/documents/{find.id}\", body: { body: x } }", """[{"id":1,"name":"one","nothing":null,"board":"None"}]"""))!;
        refused.Phase.ShouldBe(LedgerPhase.Refused);
        refused.Said.ShouldContain(said);
        _at.Office.Requests.ShouldNotContain(request => request.StartsWith("PUT"));
    }

    [Fact]
    public async Task A_list_is_looked_through_to_its_end_and_one_page_is_not_taken_for_it()
    {
        for (var i = 0; i < 9; i++)
            _at.Office.Add($"one {i}");
        _at.Office.Add("one");
        _at.Office.PageSize = 4;
        (await _at.RunAsync(WriteFixture.FindOrCreate, """[{"id":1,"name":"one","page":"a"}]"""))!.Said.ShouldBe("update 1");
        var refused = (await _at.RunAsync(WriteFixture.FindOrCreate.Replace(", paging: { next-link: /next, optional: true }", ""), """[{"id":2,"name":"one","page":"b"}]""", run: 2))!;
        refused.Said.ShouldContain("declare with paging: how the list continues");
        _at.Office.Documents.Count.ShouldBe(10);
    }

    [Theory]
    [InlineData("most-changes: 2")]
    [InlineData("most-changes: 50%")]
    public async Task More_changes_than_anybody_meant_are_not_made_until_somebody_insists(string limit)
    {
        var stopped = (await _at.RunAsync(WriteFixture.FindOrCreate, Three, keys: limit))!;
        (stopped.Phase, _at.Office.Documents.Count).ShouldBe((LedgerPhase.Refused, 0));
        stopped.Said.ShouldStartWith("create 3; most-changes: allows only");
        await _at.DecideAsync(WriteFixture.FindOrCreate, LedgerPhase.Ready, keys: limit);
        (await _at.RunAsync(WriteFixture.FindOrCreate, Three, keys: limit))!.Phase.ShouldBe(LedgerPhase.Sent);
        _at.Office.Documents.Count.ShouldBe(3);
    }

    [Fact]
    public async Task What_is_gone_from_the_query_is_removed_where_the_job_says_so()
    {
        const string Keys = "only-if-changed: true\nmost-changes: 2\nremove: { gone: { delete: \"/documents/{create.id}\" } }";
        const string Steps = "create: { post: /documents, body: { title: \"{row.name}\" } }";
        (await _at.RunAsync(Steps, """[{"id":1,"name":"one"},{"id":2,"name":"two"}]""", keys: Keys))!.Phase.ShouldBe(LedgerPhase.Sent);
        (await _at.RunAsync(Steps, """[{"id":2,"name":"two"}]""", run: 2, keys: Keys))!.Said.ShouldBe("gone 1, unchanged 1");
        _at.Office.Documents.ShouldHaveSingleItem()["title"]!.ToString().ShouldBe("two");
        _at.Rows.Select(row => $"{row.Item} {row.Step} {row.State}").ShouldBe(["[2]  unchanged", "[1] gone removed"]);
        _at.Office.Requests.Clear();
        (await _at.RunAsync(Steps, """[{"id":2,"name":"two"}]""", run: 3, keys: Keys))!.Said.ShouldBe("unchanged 1");
        _at.Office.Requests.ShouldBeEmpty();
    }

    [Fact]
    public async Task Values_keep_their_types_and_go_where_they_belong()
    {
        const string Steps = """
            board: { get: /boards, rows: /items, where: { /name: Rail } }
            create: { post: "/documents{?q}", query: { q: "{row.text}", none: "{row.none}" }, headers: { X-Text: "{row.header}" }, body: { title: "{row.text}", board: "{board.id}", weight: "{row.weight}", none: "{row.none}", list: "{row.list}", yes: "{row.yes}", html: "<b>{html:row.text}</b>", inner: "{{\"t\":{json:row.text}}}" } }
            after: { put: "/documents/{create.id}", text: "{row.text}", type: text/plain }
            """;
        _at.Office.Instead = request => request.Method == HttpMethod.Put ? FakeOffice.Json("", 204) : null;
        (await _at.RunAsync(Steps, """[{"id":1,"text":"<a> & \"b\"/../ø","weight":1.50,"none":null,"list":[1,{"a":"b"}],"yes":true,"header":"ø"}]"""))!.Phase.ShouldBe(LedgerPhase.Sent);
        var created = _at.Office.Documents.ShouldHaveSingleItem();
        created["board"]!.ToJsonString().ShouldBe("8");
        created["weight"]!.ToJsonString().ShouldBe("1.50");
        created.ContainsKey("none").ShouldBeTrue();
        created["none"].ShouldBeNull();
        created["list"]!.ToJsonString().ShouldBe("""[1,{"a":"b"}]""");
        created["yes"]!.ToJsonString().ShouldBe("true");
        created["html"]!.ToString().ShouldBe("<b>&lt;a&gt; &amp; &quot;b&quot;/../&#248;</b>");
        JsonNode.Parse(created["inner"]!.ToString())!["t"]!.ToString().ShouldBe("<a> & \"b\"/../ø");
        _at.Office.Requests[1].ShouldStartWith("POST /v2/documents?q=%3Ca%3E%20%26%20%22b%22%2F..%2F%C3%B8 ");
        _at.Office.Requests[2].ShouldBe($"PUT /v2/documents/{created["id"]} <a> & \"b\"/../ø");
    }

    [Theory]
    [InlineData("put: \"/documents/{+row.bad}\"", "..", "a segment . or ..")]
    [InlineData("put: \"/documents/{row.bad}\"", "..", "a segment . or ..")]
    [InlineData("put: /documents/1, headers: { X-A: \"{row.bad}\" }", "a\r\nX-B: c", "the header X-A would contain a line break")]
    [InlineData("put: /documents/1, if-match: \"{row.bad}\"", "a\nb", "the header If-Match would contain a line break")]
    public async Task A_value_that_would_leave_its_place_refuses_the_item(string step, string bad, string said)
    {
        var refused = (await _at.RunAsync($"change: {{ {step}, body: {{ a: 1 }} }}", new JsonArray(new JsonObject { ["id"] = 1, ["bad"] = bad }).ToJsonString()))!;
        refused.Said.ShouldContain(said);
        _at.Office.Requests.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_text_that_looks_like_a_secret_source_is_a_text()
    {
        const string Steps = "create: { post: /documents, body: { title: \"{row.name}\", token: \"env:SECRET\" } }";
        await _at.RunAsync(Steps, """[{"id":1,"name":"env:SECRET"}]""");
        var created = _at.Office.Documents.ShouldHaveSingleItem();
        (created["title"]!.ToString(), created["token"]!.ToString()).ShouldBe(("env:SECRET", "the-secret-of-the-office"));
        foreach (var file in Directory.GetFiles(_at[""], "*", SearchOption.AllDirectories))
            File.ReadAllBytes(file).AsSpan().IndexOf("the-secret-of-the-office"u8).ShouldBe(-1, file);
    }

    [Fact]
    public async Task A_body_that_does_not_fit_its_schema_is_not_sent_and_the_place_is_told()
    {
        _at.Write("document.schema.json", """{"$schema":"https://json-schema.org/draft/2020-12/schema","type":"object","properties":{"title":{"type":"string","maxLength":5},"page":{"type":"integer"}},"required":["title"]}""");
        const string Steps = "create: { post: /documents, validate: document.schema.json, body: { title: \"{row.name}\", page: \"{row.page}\" } }";
        var refused = (await _at.RunAsync(Steps, """[{"id":1,"name":"much too long","page":1},{"id":2,"name":"two","page":"b"},{"id":3,"name":"three","page":3}]"""))!;
        refused.Said.ShouldStartWith("create 3, refused 2");
        _at.Office.Documents.ShouldHaveSingleItem()["title"]!.ToString().ShouldBe("three");
        _at.Rows[0].Said!.ShouldContain("/title");
        _at.Rows[1].Said!.ShouldContain("/page");
    }

    [Fact]
    public async Task A_refusal_that_the_job_allows_passes_over_its_item()
    {
        _at.Office.Instead = request => request.RequestUri!.Query.Contains("two") ? FakeOffice.Json("""{"code":"locked"}""", 423) : null;
        var sent = (await _at.RunAsync("create: { post: \"/documents{?name}\", query: { name: \"{row.name}\" }, body: { title: \"{row.name}\" } }", Three, keys: "skip-when: [{ status: 423, at: /code, is: locked, because: somebody edits it }]"))!;
        (sent.Phase, _at.Office.Documents.Count).ShouldBe((LedgerPhase.Sent, 2));
        _at.Rows.Select(row => $"{row.State} {row.Said}").ShouldContain("skipped somebody edits it");
    }

    [Fact]
    public async Task An_API_that_is_down_leaves_the_rest_for_later()
    {
        _at.Office.Instead = _ => FakeOffice.Json("""{"message":"closed"}""", 503);
        var left = (await _at.RunAsync("create: { put: \"/documents/{row.id}\", body: { title: \"{row.name}\" } }", Three))!;
        left.Phase.ShouldBe(LedgerPhase.Ready);
        left.Said.ShouldContain("status 503");
        foreach (var id in new[] { 1, 2, 3 })
            _at.Office.Documents.Add(new JsonObject { ["id"] = id, ["version"] = 1 });
        _at.Office.Instead = null;
        (await _at.RunAsync("create: { put: \"/documents/{row.id}\", body: { title: \"{row.name}\" } }", Three))!.Phase.ShouldBe(LedgerPhase.Sent);
        _at.Office.Documents.Select(document => document["title"]!.ToString()).ShouldBe(["one", "two", "three"]);
    }

    [Fact]
    public async Task A_permission_that_is_missing_for_several_items_is_not_asked_for_by_all()
    {
        _at.Office.Instead = _ => FakeOffice.Json("""{"message":"not yours"}""", 403);
        var many = new JsonArray([.. Enumerable.Range(1, 40).Select(id => (JsonNode)new JsonObject { ["id"] = id })]).ToJsonString();
        var left = (await _at.RunAsync("create: { post: /documents, body: { a: 1 } }", many, keys: "parallel: 1"))!;
        left.Phase.ShouldBe(LedgerPhase.Ready);
        left.Said.ShouldContain("5 items in a row were refused");
        _at.Office.Requests.Count.ShouldBeLessThan(10);
    }

    [Fact]
    public async Task Items_go_side_by_side_up_to_the_number_that_is_allowed()
    {
        var many = new JsonArray([.. Enumerable.Range(1, 200).Select(id => (JsonNode)new JsonObject { ["id"] = id })]).ToJsonString();
        (await _at.RunAsync("create: { post: /documents, body: { title: \"{row.id}\" } }", many, keys: "parallel: 8"))!.Phase.ShouldBe(LedgerPhase.Sent);
        _at.Office.Documents.Count.ShouldBe(200);
        _at.Office.MostAtOnce.ShouldBeInRange(2, 8);
    }

    [Fact]
    public async Task A_value_that_makes_no_address_refuses_its_item_alone()
    {
        var refused = (await _at.RunAsync("create: { post: /documents, body: { title: \"{row.name}\" } }", """[{"id":1,"name":"a","tenant":"evil.example/x"},{"id":2,"name":"b","tenant":"south"}]""", api: "base: \"https://{row.tenant}.example/v2\""))!;
        refused.Phase.ShouldBe(LedgerPhase.Refused);
        _at.Rows.Select(row => row.State).ShouldBe(["refused", "sent"]);
        _at.Office.Sent.ShouldHaveSingleItem().RequestUri!.Host.ShouldBe("south.example");
    }

    [Fact]
    public async Task Each_item_is_sent_as_the_tenant_that_it_names()
    {
        await _at.RunAsync("create: { post: /documents, body: { title: \"{row.name}\" } }", """[{"id":1,"name":"a","tenant":"north"},{"id":2,"name":"b","tenant":"south"}]""", api: "base: \"https://{row.tenant}.example/v2\"");
        _at.Office.Sent.Zip(_at.Office.Requests, (request, said) => $"{request.RequestUri!.Host} {said}").Order().ShouldBe(["north.example POST /v2/documents {\"title\":\"a\"}", "south.example POST /v2/documents {\"title\":\"b\"}"]);
    }
}
