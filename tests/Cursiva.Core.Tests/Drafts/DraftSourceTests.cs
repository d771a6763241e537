using Cursiva.Core.Drafts;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Tests.Drafts;

/// <summary>Drafts without a network: answers, folders of answers, recordings and descriptions.</summary>
public sealed class DraftSourceTests : IAsyncDisposable
{
    private readonly DraftFixture _at = new();

    public ValueTask DisposeAsync() => _at.DisposeAsync();

    [Fact]
    public async Task A_saved_answer_tells_its_address_by_its_links()
    {
        var file = _at.Write("saved.json", $$"""{"rows":[{{Ask.Rows(0)}}],"total":95,"links":{"next":"https://real.example/api/rows?after=20"} }""");
        var drafted = await _at.DraftAsync(DraftSource.Open(file, null, new Redactor()));
        drafted.Text.ShouldContain("base: https://real.example/api");
        drafted.Text.ShouldContain("paging: { next-link: /links/next, total: /total }  # not proven");
        drafted.Asked.ShouldBe(0);
        (await _at.DraftAsync(DraftSource.Open(_at.Write("bare.json", "[{\"id\":1},{\"id\":2}]"), null, new Redactor()))).Text.ShouldContain("# The address is made up");
        (await _at.DraftAsync(DraftSource.Open(_at["bare.json"], "https://told.example/v3/things", new Redactor()))).Text.ShouldContain("base: https://told.example/v3");
    }

    [Fact]
    public async Task Files_of_a_folder_are_pages_that_prove_each_other()
    {
        Directory.CreateDirectory(_at["pages"]);
        for (var page = 0; page < 5; page++)
            _at.Write($"pages/{page}.json", $$"""{"rows":[{{Ask.Rows(page * 20)}}],"next":{{(page < 4 ? $"\"https://real.example/api/rows?page={page + 2}\"" : "null")}}}""");
        var drafted = await _at.DraftAsync(DraftSource.Open(_at["pages"], null, new Redactor()));
        drafted.Text.ShouldContain("paging: { next-link: /next }");
        drafted.Text.ShouldContain("# proven: ");
        drafted.Text.ShouldContain("the complete listing was seen: 95 rows on 5 pages");
    }

    [Fact]
    public async Task The_largest_listing_of_a_recording_is_drafted_and_the_others_are_named()
    {
        var file = _at.Write("browser.har", Har(
            ("GET", "https://real.example/api/me", "{\"id\":1}"),
            ("GET", "https://real.example/api/few?x=1", "[{\"id\":1},{\"id\":2}]"),
            ("GET", "https://real.example/api/rows?size=20", $$"""{"rows":[{{Ask.Rows(0)}}],"cursor":"c20"}"""),
            ("GET", "https://real.example/api/rows?size=20&after=c20", $$"""{"rows":[{{Ask.Rows(20)}}],"cursor":null}""")));
        var drafted = await _at.DraftAsync(DraftSource.Open(file, null, new Redactor()));
        drafted.Text.ShouldContain("paging: { cursor: /cursor, parameter: after }");
        drafted.Text.ShouldContain("# proven: ");
        drafted.Text.ShouldContain("# The recording also has https://real.example/api/few (2 rows)");
        (await _at.DraftAsync(DraftSource.Open(file, "https://real.example/api/few", new Redactor()))).Name.ShouldBe("few");
    }

    [Theory]
    [InlineData("""{"log":{"version":"1.2","entries":[{"request":{"method":"GET","url":"https://a.example/x","headers":[]},"response":{"status":200,"headers":[],"content":{"size":900,"mimeType":"application/json"}}}]}}""", "has no bodies")]
    [InlineData("""{"log":{"version":"1.2","creator":{},"entries":[]}}""", "no answer with rows")]
    [InlineData("""{"log":{"version":"1.2","entries":[{"request":{}}]}}""", "not a recording in the HAR 1.2 format")]
    [InlineData("<html></html>", "is a web page")]
    public void What_is_no_use_is_told(string text, string said) =>
        Should.Throw<RefusedException>(() => DraftSource.Open(_at.Write("file.har", text), null, new Redactor())).Refusal.What.ShouldContain(said);

    [Fact]
    public void A_description_lists_what_pages_and_names_parameters()
    {
        const string Description = """
            openapi: 3.0.3
            info: { title: Brackwater, version: "2" }
            servers: [{ url: "https://api.brackwater.example/v2" }]
            paths:
              /depots:
                get:
                  operationId: listDepots
                  summary: Every depot
                  parameters: [{ $ref: "#/components/parameters/Page" }, { name: q, in: query }]
                  responses: { "200": { content: { application/json: { schema: { type: object, properties: { items: { type: array, items: { type: object } }, next: { type: string } } } } } } }
              /depots/{id}:
                get: { operationId: oneDepot, responses: { "200": { content: { application/json: { schema: { type: object, properties: { id: { type: string } } } } } } } }
              /status:
                post: { operationId: set }
            components:
              parameters:
                Page: { name: pageNo, in: query, schema: { type: integer } }
            """;
        var description = ApiDescription.Read(_at.Write("openapi.yaml", Description));
        description.Operations.Select(operation => operation.Id).ShouldBe(["listDepots"]);
        description.Operations[0].ShouldSatisfyAllConditions(operation => operation.Pages.ShouldBeTrue(), operation => operation.Parameters.ShouldBe(["pageNo", "q"]));
        description.Find("/depots").Address(description).ShouldBe("https://api.brackwater.example/v2/depots");
        Should.Throw<RefusedException>(() => description.Find("listDepot")).Refusal.NextStep.ShouldBe("it has listDepots");
        Should.Throw<RefusedException>(() => ApiDescription.Read(_at.Write("other.yaml", "swagger: '2.0'"))).Refusal.What.ShouldContain("not an OpenAPI 3");
    }

    [Fact]
    public async Task A_parameter_that_the_description_names_is_tried_first()
    {
        string? Api(Ask ask) => $"[{Ask.Rows((ask.Number("pageNo", 1) - 1) * 20)}]";
        (await _at.DraftAsync(Api)).Text.ShouldContain("# no paging");
        (await _at.DraftAsync(Api, parameters: ["pageNo"])).Text.ShouldContain("paging: { page-number: 1, parameter: pageNo }");
    }

    private static string Har(params (string Method, string Url, string Body)[] entries) =>
        new System.Text.Json.Nodes.JsonObject
        {
            ["log"] = new System.Text.Json.Nodes.JsonObject
            {
                ["version"] = "1.2",
                ["entries"] = new System.Text.Json.Nodes.JsonArray([.. entries.Select(entry => new System.Text.Json.Nodes.JsonObject
                {
                    ["request"] = new System.Text.Json.Nodes.JsonObject { ["method"] = entry.Method, ["url"] = entry.Url, ["headers"] = new System.Text.Json.Nodes.JsonArray() },
                    ["response"] = new System.Text.Json.Nodes.JsonObject { ["status"] = 200, ["headers"] = new System.Text.Json.Nodes.JsonArray(), ["content"] = new System.Text.Json.Nodes.JsonObject { ["mimeType"] = "application/json", ["text"] = entry.Body } },
                })]),
            },
        }.ToJsonString();
}
