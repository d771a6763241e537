using System.Net;
using System.Net.Http.Headers;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Files;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>A file whose download was stopped between its last byte and its name.</summary>
public sealed class DownloadTests : IAsyncDisposable
{
    private const string Pull = "all: { get: /file, download: kept.txt }";

    private readonly PullHarness _pulls = new();
    private readonly List<string> _ranges = [];

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData("whole text", "whole text", "v1", "v1", 1)]
    [InlineData("whole text", "short", "v1", "v2", 3)]
    [InlineData("whole text", "whole text and more", "v1", "v2", 1)]
    [InlineData("whole text", "other text", "v1", "v2", 2)]
    public async Task What_is_there_whole_is_finished_and_what_is_of_another_file_is_fetched_anew(string before, string after, string tagBefore, string tagAfter, int requests)
    {
        await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Pull, request => Answer(request, before, tagBefore), "download", new NoRenames()));
        File.Exists(_pulls["kept.txt"]).ShouldBeFalse();
        _ranges.Clear();
        await _pulls.RunAsync(Pull, request => Answer(request, after, tagAfter), "download");
        File.ReadAllText(_pulls["kept.txt"]).ShouldBe(after);
        _ranges.Count.ShouldBeLessThanOrEqualTo(requests);
        _ranges[0].ShouldBe($"bytes={before.Length}-");
        _pulls.Rows["all"].ShouldContain($"\"bytes\":{after.Length}");
        _pulls.Rows["all"].ShouldContain("\"content_type\":\"text/plain\"");
    }

    // With ranges, as RFC 9110 section 14 has them. A server may answer 416 before it looks at If-Range.
    private HttpResponseMessage Answer(HttpRequestMessage request, string text, string tag)
    {
        var from = request.Headers.Range?.Ranges.Single().From;
        _ranges.Add(request.Headers.Range?.ToString() ?? "");
        var answer = new HttpResponseMessage { Content = new StringContent(text) };
        if (from >= text.Length)
        {
            answer = new HttpResponseMessage(HttpStatusCode.RequestedRangeNotSatisfiable) { Content = new StringContent("") };
            answer.Content.Headers.ContentRange = new ContentRangeHeaderValue(text.Length);
        }
        else if (from is not null && request.Headers.IfRange?.EntityTag?.Tag == $"\"{tag}\"")
        {
            answer = new HttpResponseMessage(HttpStatusCode.PartialContent) { Content = new StringContent(text[(int)from..]) };
        }

        answer.Headers.ETag = new EntityTagHeaderValue($"\"{tag}\"");
        return answer;
    }

    private sealed class NoRenames : DiskDouble
    {
        public override void Rename(string from, string to)
        {
            if (to.EndsWith("kept.txt", StringComparison.Ordinal))
                throw new IOException("stopped");
            base.Rename(from, to);
        }
    }
}
