using System.Net;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>A server does its work and its answer is lost: for every request of a small job of all kinds, once.</summary>
public sealed class LostAnswerTests
{
    private const string Pulls = """
        links: { get: /links, rows: /items, paging: { next-link: /next } }
        counted: { get: /counted, rows: /items, paging: { page-number: 1, parameter: page, pages: /pages } }
        cursors: { post: /cursors, body: { cursor: '' }, rows: /items, paging: { cursor: /cursor, body-at: /cursor } }
        tree: { per: { pull: links, batch: 1 }, get: '/tree/{links.id}', rows: /items }
        export: { post: /exports, export: { every: 10ms, files: /parts, link: /url } }
        """;

    [Fact]
    public async Task Whichever_answer_is_lost_rows_are_the_same_and_nothing_is_submitted_twice()
    {
        var (whole, count, _, refused) = await RunAsync(0);
        refused.ShouldBeNull();
        count.ShouldBeGreaterThan(10);
        var ended = 0;
        for (var lost = 1; lost <= count; lost++)
        {
            var (rows, _, submitted, told) = await RunAsync(lost);
            submitted.ShouldBe(1, $"the answer to request {lost} was lost");
            if (told is null)
            {
                rows.ShouldBe(whole, $"the answer to request {lost} was lost");
                continue;
            }

            // Only the submission's: nobody knows from here whether it arrived.
            ended++;
            told.Cause.ShouldBe("the request may have arrived although its answer did not; it was not repeated, since that could do its work twice");
        }

        ended.ShouldBe(1);
    }

    private static async Task<(string Rows, int Count, int Submitted, Refusal? Told)> RunAsync(int lost)
    {
        await using var harness = new PullHarness();
        var (count, submitted) = (0, 0);
        Refusal? told = null;
        try
        {
            await harness.RunAsync(Pulls, request =>
            {
                var answer = Answer(request, ref submitted);
                return Interlocked.Increment(ref count) == lost ? throw new HttpRequestException(HttpRequestError.ResponseEnded, "lost on the way back") : answer;
            });
        }
        catch (RefusedException error)
        {
            told = error.Refusal;
        }

        return (string.Concat(harness.Rows.OrderBy(pull => pull.Key).Select(pull => $"{pull.Key}\n{pull.Value}")), count, submitted, told);
    }

    private static HttpResponseMessage Answer(HttpRequestMessage request, ref int submitted)
    {
        var (path, query) = (request.RequestUri!.AbsolutePath, request.RequestUri.Query);
        switch (path)
        {
            case "/links":
                return FakeServer.Json(query == "?2" ? """{"items":[{"id":3}],"next":null}""" : """{"items":[{"id":1},{"id":2}],"next":"/links?2"}""");
            case "/counted":
                return FakeServer.Json($$"""{"items":[{"at":"{{query}}"}],"pages":3}""");
            case "/cursors":
                var body = request.Content!.ReadAsStringAsync().Result;
                return FakeServer.Json(body.Contains("c1") ? """{"items":[{"c":2}],"cursor":null}""" : """{"items":[{"c":1}],"cursor":"c1"}""");
            case "/exports" when request.Method == HttpMethod.Post:
                Interlocked.Increment(ref submitted);
                return new HttpResponseMessage(HttpStatusCode.Accepted) { Headers = { Location = new Uri("https://x.example/exports/1") } };
            case "/exports/1":
                return FakeServer.Json("""{"parts":[{"url":"https://x.example/part/1"},{"url":"https://x.example/part/2"}]}""");
            default:
                return path.StartsWith("/tree/", StringComparison.Ordinal) ? FakeServer.Json($$"""{"items":[{"leaf":"{{path}}"}]}""") : new HttpResponseMessage { Content = new StringContent($"{{\"part\":\"{path}\"}}\n") };
        }
    }
}
