using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>What is advised when one strand of many is refused, and that it works.</summary>
public sealed class SkipAdviceTests : IAsyncDisposable
{
    private readonly PullHarness _pulls = new();

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData(403, "", "add skip-when: [{ status: 403 }] to pull 'all' and run again")]
    [InlineData(410, "", "add skip-when: [{ status: 410 }] to pull 'all' and run again")]
    [InlineData(451, "skip-when: [{ status: 404 }], ", "add { status: 451 } to skip-when: of pull 'all' and run again")]
    public async Task A_refused_strand_names_the_rule_that_skips_it(int status, string rules, string advice)
    {
        HttpResponseMessage Answer(HttpRequestMessage request) => request.RequestUri!.AbsolutePath == "/d/2" ? FakeServer.Json("{}", status) : FakeServer.Json("[]");
        string Pull(string skips) => $"all: {{ per: {{ name: d, list: [1, 2, 3] }}, get: '/d/{{d}}', rows: '', {skips} allow-empty: true }}";
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Pull(rules), Answer))).Refusal.NextStep!.ShouldContain(advice);
        await _pulls.RunAsync(Pull($"skip-when: [{{ status: 404 }}, {{ status: {status} }}],"), Answer);
        _pulls.Strands.Count(strand => strand.Skip is not null).ShouldBe(1);
    }

    [Fact]
    public async Task A_pull_that_is_not_repeated_has_nothing_to_skip()
    {
        var refused = await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: /d, rows: '' }", _ => FakeServer.Json("{}", 403)));
        refused.Refusal.NextStep.ShouldNotBeNull().ShouldNotContain("skip-when");
    }
}
