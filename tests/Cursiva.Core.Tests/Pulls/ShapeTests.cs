using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using System.Web;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Listings that APIs write in other ways than most.</summary>
public sealed class ShapeTests : IAsyncDisposable
{
    private readonly PullHarness _pulls = new();

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData("page-number: 1, parameter: page, total-header: X-Total", "as many rows as the API announced")]
    [InlineData("page-number: 1, parameter: page, pages-header: X-Pages", "the last page that the API announced")]
    [InlineData("page-number: 1, parameter: page, end-status: 404", "the API says that there is no further page")]
    [InlineData("page-number: 1, parameter: page, end-status: 416", "the API says that there is no further page")]
    [InlineData("page-number: 1, parameter: page", "a page without rows")]
    [InlineData("next-link: { at: /links }", "the API names no next page")]
    [InlineData("next-link: { at: /others, relation: following, address: url }", "the API names no next page")]
    public async Task The_end_may_stand_in_a_header_a_status_or_an_array_of_links(string paging, string ended)
    {
        await _pulls.RunAsync($"all:\n  get: /rows\n  rows: /items\n  paging: {{ {paging} }}", request => Page(request, paging.Contains("416") ? 416 : paging.Contains("404") ? 404 : 204));
        _pulls.Rows["all"].ShouldBe(string.Concat(Enumerable.Range(1, 7).Select(id => $"{{\"id\":{id}}}\n")));
        _pulls.Ends.Single().Ended.ShouldBe(ended);
    }

    [Fact]
    public async Task A_status_that_is_not_the_end_and_a_first_page_that_is_not_there_are_errors()
    {
        var refused = await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all:\n  get: /rows\n  rows: /items\n  paging: { page-number: 1, parameter: page }", request => Page(request, 404)));
        refused.Refusal.What.ShouldContain("404");
        await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all:\n  get: /rows\n  rows: /items\n  paging: { page-number: 1, parameter: page, end-status: 404 }", _ => new HttpResponseMessage(HttpStatusCode.NotFound) { Content = new StringContent("{}") }));
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all:\n  get: /rows\n  rows: /items\n  paging: { page-number: 1, parameter: page, end-status: 404, total-header: X-Count }", request => Page(request, 404))))
            .Refusal.What.ShouldContain("no page had total-header: X-Count");
    }

    [Fact]
    public async Task An_answer_without_content_is_no_rows()
    {
        await _pulls.RunAsync("all: { get: /rows, rows: /items }", _ => new HttpResponseMessage(HttpStatusCode.NoContent));
        (_pulls.Rows["all"], _pulls.Ends.Single().Rows).ShouldBe(("", 0));
    }

    [Fact]
    public async Task Plain_values_become_rows()
    {
        await _pulls.RunAsync("all: { get: /rows, rows: { at: /ids, value-as: id } }", _ => FakeServer.Json("""{"ids":["a", 7, null, {"b" : 1}]}"""));
        _pulls.Rows["all"].ShouldBe("{\"id\":\"a\"}\n{\"id\":7}\n{\"id\":null}\n{\"id\":{\"b\":1}}\n");
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: /rows, rows: /ids }", _ => FakeServer.Json("""{"ids":["a"]}""")))).Refusal.What.ShouldContain("rows: { at: /ids, value-as: NAME }");
    }

    [Theory]
    [InlineData("text/html", "utf-8", """{"items":[{"id":1}]}""")]
    [InlineData("text/plain", null, """  {"items":[{"id":1}]}""")]
    [InlineData("application/json", "utf-16", """{"items":[{"id":1}]}""")]
    [InlineData("application/json", "utf-16be", """{"items":[{"id":1}]}""")]
    public async Task JSON_is_read_as_JSON_whatever_its_content_type_and_charset_say(string type, string? charset, string body)
    {
        await _pulls.RunAsync("all: { get: /rows, rows: /items }", _ => new HttpResponseMessage { Content = Text(body, type, charset) });
        _pulls.Rows["all"].ShouldBe("{\"id\":1}\n");
    }

    [Theory]
    [InlineData("<!DOCTYPE html><title>Sign in</title>", "application/json", true)]
    [InlineData("\n<html lang=en><body>gateway", "text/plain", true)]
    [InlineData("Service is down", "text/html", true)]
    [InlineData("<?xml version='1.0'?><error>no such listing</error>", "application/xml", false)]
    [InlineData("<error/>", "text/plain", false)]
    public async Task A_web_page_is_said_only_of_a_web_page(string body, string type, bool isPage)
    {
        var refusal = (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: /rows, rows: /items }", _ => new HttpResponseMessage { Content = Text(body, type, "utf-8") }))).Refusal;
        $"{refusal.What} {refusal.Cause}".Contains("web page").ShouldBe(isPage);
    }

    [Fact]
    public async Task A_placeholder_alone_in_its_quotes_keeps_the_type_that_the_row_has_it_with()
    {
        var bodies = new List<string>();
        await _pulls.RunAsync(
            """
            depots: { get: /depots, rows: /items }
            stock:
              per: depots
              post: /stock
              body: { id: "{depots.id}", tags: ["{depots.open}", "{depots.list}"], text: "no {depots.id}", code: "{depots.code}" }
              rows: /items
            """,
            request =>
            {
                if (request.Method == HttpMethod.Post)
                    bodies.Add(request.Content!.ReadAsStringAsync().GetAwaiter().GetResult());
                return FakeServer.Json(request.RequestUri!.AbsolutePath == "/depots" ? """{"items":[{"id":9007199254740993,"open":true,"list":[1,"2"],"code":"0012"}]}""" : """{"items":[]}""");
            });
        bodies.ShouldHaveSingleItem().ShouldBe("""{"id":9007199254740993,"tags":[true,[1,"2"]],"text":"no 9007199254740993","code":"0012"}""");
    }

    [Fact]
    public async Task A_placeholder_without_quotes_is_explained()
    {
        var mistakes = await Should.ThrowAsync<JobMistakesException>(() => _pulls.RunAsync("depots: { get: /depots, rows: /items }\nstock: { per: depots, post: /stock, body: { id: {depots.id} }, rows: /items }", _ => FakeServer.Json("{}")));
        var mistake = mistakes.Mistakes.ShouldHaveSingleItem();
        (mistake.Found, mistake.Right).ShouldBe(("{depots.id} without quotes is a map to YAML", "write \"{depots.id}\"; alone in its quotes, it keeps the type it has in the row"));
    }

    [Theory]
    [InlineData("lines", "{\"id\":1,\"phone\":\"7\"}\n\n{\"id\":2}")]
    [InlineData("array", "[ {\"id\":1,\"phone\":\"7\"} , {\"id\":2} ]")]
    [InlineData("sequence", "\u001e{\"id\":1,\n \"phone\":\"7\"}\n\u001e{\n\"id\":2}\n")]
    [InlineData("csv", "id,phone\r\n1,7\r\n2,\r\n")]
    public async Task A_stream_may_be_lines_an_array_a_sequence_or_CSV(string form, string body)
    {
        await _pulls.RunAsync($"all: {{ get: /rows, omit: [/phone], paging: {{ stream: {form} }} }}", _ => new HttpResponseMessage { Content = new StringContent(body) });
        _pulls.Rows["all"].ShouldBe(form == "csv" ? "{\"id\":\"1\"}\n{\"id\":\"2\"}\n" : "{\"id\":1}\n{\"id\":2}\n");
        _pulls.Ends.Single().Ended.ShouldBe("the end of the stream");
    }

    [Theory]
    [InlineData("array", "[{\"id\":1},]")]
    [InlineData("array", "[,{\"id\":1}]")]
    [InlineData("array", "[{\"id\":1},,{\"id\":2}]")]
    [InlineData("array", "[{\"id\":1} , ")]
    [InlineData("sequence", "\u001e{\"id\":1}\n\u001e{\"id\":")]
    [InlineData("csv", "id,phone\r\n1,7\r\n2")]
    [InlineData("csv", "id,id\r\n1,7\r\n")]
    public async Task A_stream_that_is_not_whole_is_refused(string form, string body) =>
        await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync($"all: {{ get: /rows, paging: {{ stream: {form} }} }}", _ => new HttpResponseMessage { Content = new StringContent(body) }));

    [Fact]
    public async Task An_export_that_failed_is_submitted_again_by_the_next_start()
    {
        const string Pull = "all: { post: /exports, body: { what: rows }, export: { state: /state, done: [ready], failed: [broken], files: /parts, link: /url } }";
        var submitted = 0;
        HttpResponseMessage Answer(HttpRequestMessage request)
        {
            switch (request.RequestUri!.AbsolutePath)
            {
                case "/exports":
                    submitted++;
                    return new HttpResponseMessage(HttpStatusCode.Accepted) { Headers = { Location = new Uri($"/exports/{submitted}", UriKind.Relative) } };
                case "/exports/1":
                    return FakeServer.Json("""{"state":"broken"}""");
                case "/exports/2":
                    return FakeServer.Json("""{"state":"ready","parts":[{"url":"/parts/1"}]}""");
                default:
                    return new HttpResponseMessage { Content = new StringContent("{\"id\":1}\n") };
            }
        }

        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Pull, Answer, "export"))).Refusal.What.ShouldContain("the next start submits it again");
        submitted.ShouldBe(1);
        await _pulls.RunAsync(Pull, Answer, "export");
        (submitted, _pulls.Rows["all"]).ShouldBe((2, "{\"id\":1}\n"));
        _pulls.Warnings.ShouldContain(warning => warning.Contains("is submitted again"));
    }

    // Seven rows, three a page; behind the last page the API answers with a status.
    private static HttpResponseMessage Page(HttpRequestMessage request, int behind)
    {
        var page = int.Parse(HttpUtility.ParseQueryString(request.RequestUri!.Query)["page"] ?? "1");
        if (page > 3)
            return new HttpResponseMessage((HttpStatusCode)behind) { Content = new StringContent(behind == 204 ? "" : """{"error":"no such page"}""") };
        var items = new JsonArray([.. Enumerable.Range(1, 7).Skip((page - 1) * 3).Take(3).Select(id => new JsonObject { ["id"] = id })]);
        var links = new JsonArray(new JsonObject { ["rel"] = "self", ["href"] = "/rows" });
        var others = new JsonArray(new JsonObject { ["rel"] = new JsonArray("first", "self"), ["url"] = "/rows" });
        if (page < 3)
        {
            links.Add(new JsonObject { ["href"] = $"/rows?page={page + 1}", ["rel"] = "next" });
            others.Add(new JsonObject { ["rel"] = new JsonArray("following", "later"), ["url"] = $"/rows?page={page + 1}" });
        }

        var answer = FakeServer.Json(new JsonObject { ["items"] = items, ["links"] = links, ["others"] = others }.ToJsonString());
        answer.Headers.Add("X-Total", "7");
        answer.Headers.Add("X-Pages", "3");
        return answer;
    }

    private static ByteArrayContent Text(string body, string type, string? charset)
    {
        var encoding = charset is null ? Encoding.UTF8 : Encoding.GetEncoding(charset);
        var content = new ByteArrayContent(encoding.GetBytes(body));
        content.Headers.ContentType = new System.Net.Http.Headers.MediaTypeHeaderValue(type) { CharSet = charset };
        return content;
    }
}
