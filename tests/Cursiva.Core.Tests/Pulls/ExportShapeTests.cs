using System.IO.Compression;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>How exports end, and what their parts have to be.</summary>
public sealed class ExportShapeTests : IAsyncDisposable
{
    private const string Rows = "{\"id\":1}\n{\"id\":2}\n";

    private readonly PullHarness _pulls = new();
    private int _polls;
    private int _parts;

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData("result: rows", "rows")]
    [InlineData("result: rows", "303")]
    [InlineData("result: rows", "303 at once")]
    [InlineData("files: /parts, link: /url", "303 list")]
    [InlineData("files: /parts, link: /url", "list")]
    [InlineData("result: rows, link: /file", "link")]
    [InlineData("result: rows, state: /state, done: [ready], link: /file", "link")]
    public async Task An_export_ends_with_its_rows_a_list_or_another_address(string keys, string how)
    {
        await _pulls.RunAsync($"all: {{ post: /exports, export: {{ every: 10ms, {keys} }} }}", request => Answer(request, how, "{}"));
        _pulls.Rows["all"].ShouldBe(Rows);
        _pulls.Ends.Single().Ended.ShouldBe("all files of the export");
    }

    [Theory]
    [InlineData("rows: /n", """{"n":2}""", false, null)]
    [InlineData("rows: /n", """{"n":3}""", false, "the API announced 3 rows, but 2 came")]
    [InlineData("bytes: /n", """{"n":"18"}""", false, null)]
    [InlineData("bytes: /n", """{"n":18}""", true, null)]
    [InlineData("bytes: /n", """{"n":17}""", true, "the API announced 17 bytes, but ")]
    [InlineData("sha256: /h", "{\"h\":\"HEX\"}", true, null)]
    [InlineData("sha256: /h", "{\"h\":\"BASE64\"}", false, null)]
    [InlineData("sha256: /h", """{"h":"00"}""", false, "the API announced the SHA-256 00")]
    [InlineData("sha256: /hash", """{"h":"00"}""", false, "there is nothing at /hash")]
    public async Task What_is_told_of_a_part_is_checked(string keys, string told, bool packed, string? refused)
    {
        var digest = SHA256.HashData(Encoding.UTF8.GetBytes(Rows));
        told = told.Replace("HEX", Convert.ToHexString(digest)).Replace("BASE64", Convert.ToBase64String(digest));
        var run = _pulls.RunAsync($"all: {{ post: /exports, export: {{ every: 10ms, files: /parts, link: /url, {keys} }} }}", request => Answer(request, "list", told, packed));
        if (refused is null)
            await run;
        else
            (await Should.ThrowAsync<RefusedException>(() => run)).Refusal.What.ShouldContain(refused);
        (refused is null).ShouldBe(_pulls.Rows["all"] == Rows);
        if (refused?.StartsWith("the API tells", StringComparison.Ordinal) == true)
            _parts.ShouldBe(4);
    }

    [Theory]
    [InlineData(500)]
    [InlineData(502)]
    [InlineData(503)]
    [InlineData(504)]
    public async Task A_submission_that_may_have_arrived_is_not_sent_again(int status)
    {
        var submitted = 0;
        var refused = await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { post: /exports, export: { result: rows } }", _ =>
        {
            submitted++;
            return FakeServer.Json("{}", status);
        }));
        submitted.ShouldBe(1);
        refused.Refusal.Cause!.ShouldContain("may have arrived");
    }

    [Theory]
    [InlineData(429)]
    [InlineData(503)]
    public async Task A_submission_that_the_API_did_not_take_is_sent_again(int status)
    {
        var submitted = 0;
        await _pulls.RunAsync("all: { post: /exports, export: { result: rows, every: 10ms } }", request =>
        {
            if (request.Method != HttpMethod.Post || ++submitted > 1)
                return Answer(request, "rows", "{}");
            var answer = FakeServer.Json("{}", status);
            answer.Headers.Add("Retry-After", "0");
            return answer;
        });
        submitted.ShouldBe(2);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(3)]
    public async Task A_submission_without_an_answer_is_found_in_the_list(int listedAfter)
    {
        var exports = new ExportsWithoutAnswers(listedAfter);
        await _pulls.RunAsync(Found, exports.Answer);
        _pulls.Rows["all"].ShouldBe(Rows);
        exports.Ids.Count.ShouldBe(1);
        exports.Looks.ShouldBe(listedAfter);
    }

    [Fact]
    public async Task A_submission_that_is_not_listed_is_looked_for_by_the_next_start()
    {
        var exports = new ExportsWithoutAnswers(listedAfter: 4);
        var refused = await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Found, exports.Answer, landing: "kept"));
        refused.Refusal.NextStep!.ShouldContain("start the job again");
        await _pulls.RunAsync(Found, exports.Answer, landing: "kept");
        _pulls.Rows["all"].ShouldBe(Rows);
        exports.Ids.Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_submission_that_never_arrived_is_sent_by_the_next_start_under_its_id()
    {
        var exports = new ExportsWithoutAnswers(listedAfter: int.MaxValue);
        await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Found, exports.Answer, landing: "kept"));
        exports.Answers = true;
        await _pulls.RunAsync(Found, exports.Answer, landing: "kept");
        _pulls.Rows["all"].ShouldBe(Rows);
        exports.Ids.Count.ShouldBe(2);
        exports.Ids.Distinct().Count().ShouldBe(1);
    }

    [Fact]
    public async Task Two_exports_that_fit_are_refused()
    {
        var exports = new ExportsWithoutAnswers(listedAfter: 1) { Copies = 2 };
        var refused = await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Found, exports.Answer));
        refused.Refusal.What.ShouldContain("2 exports match where: of export: find:, but one was submitted");
    }

    private const string Found = """
        all:
          post: /exports
          body: { reference: "{submission}" }
          export: { result: rows, every: 10ms, find: { get: "/list{?submission}", rows: /items, where: { /reference: "{submission}" }, link: /self } }
        """;

    private HttpResponseMessage Answer(HttpRequestMessage request, string how, string part, bool packed = false)
    {
        switch (request.RequestUri!.AbsolutePath)
        {
            case "/exports":
                return To(how == "303 at once" ? HttpStatusCode.SeeOther : HttpStatusCode.Accepted, "/exports/1");
            case "/exports/1" when ++_polls < 3:
                return FakeServer.Json("""{"state":"running"}""", 202);
            case "/exports/1":
                return how switch
                {
                    "rows" => new HttpResponseMessage { Content = new StringContent(Rows) },
                    "list" => List(part),
                    "303 list" => To(HttpStatusCode.SeeOther, "/list"),
                    "link" => FakeServer.Json("""{"state":"ready","file":"/file"}"""),
                    _ => To(HttpStatusCode.SeeOther, "/file"),
                };
            case "/list":
                return List(part);
            default:
                _parts++;
                return new HttpResponseMessage { Content = packed ? new ByteArrayContent(Gzip(Rows)) : new StringContent(Rows) };
        }
    }

    private static HttpResponseMessage List(string part) => FakeServer.Json($$"""{"parts":[{"url":"/file",{{part.TrimStart('{')}}]}""".Replace(",}", "}"));

    private static HttpResponseMessage To(HttpStatusCode status, string place) => new(status) { Headers = { Location = new Uri(place, UriKind.Relative) } };

    private static byte[] Gzip(string text)
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal))
            gzip.Write(Encoding.UTF8.GetBytes(text));
        return packed.ToArray();
    }
}
