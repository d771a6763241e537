using System.Globalization;
using System.Web;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Listings that are asked for in windows of time.</summary>
public sealed class WindowTests : IAsyncDisposable
{
    // A row every ten minutes for two days, and fifty more within one of them.
    private static readonly List<DateTimeOffset> s_times =
    [
        .. Enumerable.Range(0, 288).Select(row => new DateTimeOffset(2026, 3, 1, 0, 0, 0, TimeSpan.Zero).AddMinutes(10 * row)),
        .. Enumerable.Range(0, 50).Select(row => new DateTimeOffset(2026, 3, 2, 6, 1, 0, TimeSpan.Zero).AddSeconds(row)),
    ];

    private readonly PullHarness _pulls = new();

    public ValueTask DisposeAsync() => _pulls.DisposeAsync();

    [Theory]
    [InlineData("", 40, false)]
    [InlineData(", paging: { page-number: 1, parameter: page, page-size: 7 }", 40, false)]
    [InlineData(", paging: { page-number: 1, parameter: page, total: /total }", 30, false)]
    [InlineData(", paging: { next-link: /next }", 25, false)]
    [InlineData(", paging: { next-link: /next }", 25, true)]
    public async Task A_window_that_the_API_caps_is_halved_until_every_row_came_once(string paging, int cap, bool refuses)
    {
        await _pulls.RunAsync($"all: {{ get: '/rows', query: {{ from: '{{window.from}}', to: '{{window.to}}' }}, rows: /items, window: {{ from: 2026-03-01, to: 2026-03-03, step: 1d, at-most: {cap} }}{paging} }}", request => Answer(request, cap, refuses, paging.Contains("link")));
        Landed().ShouldBe(s_times.Order());
        _pulls.Ends.Single().Rows.ShouldBe(338);
        if (paging.Length == 0)
            _pulls.Ends.Single().Proven.ShouldBeTrue();
    }

    [Fact]
    public async Task A_stopped_run_asks_for_no_window_again_that_is_whole()
    {
        const string Pull = "all: { get: '/rows', query: { from: '{window.from}', to: '{window.to}' }, rows: /items, window: { from: 2026-03-01, to: 2026-03-03, step: 1d, at-most: 100 }, parallel: 1 }";
        var asked = 0;
        await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Pull, request => ++asked > 6 ? FakeServer.Json("{}", 403) : Answer(request, 100), "windows"));
        _pulls.Requests.Clear();
        await _pulls.RunAsync(Pull, request => Answer(request, 100), "windows");
        Landed().ShouldBe(s_times.Order());
        var again = _pulls.Requests.Count;
        await using var whole = new PullHarness();
        await whole.RunAsync(Pull, request => Answer(request, 100));
        again.ShouldBe(whole.Requests.Count - 6);
    }

    [Theory]
    [InlineData("as: time", "2026-03-01T00:00:00Z", "2026-03-02T00:00:00Z")]
    [InlineData("as: time, end-less: 1s", "2026-03-01T00:00:00Z", "2026-03-01T23:59:59Z")]
    [InlineData("as: date, end-less: 1d", "2026-03-01", "2026-03-01")]
    [InlineData("as: seconds", "1772323200", "1772409600")]
    public async Task The_ends_are_written_as_the_API_wants_them(string form, string from, string to)
    {
        await _pulls.RunAsync($"all: {{ get: '/rows{{?window.from,window.to}}', rows: /items, window: {{ from: 2026-03-01, to: 2026-03-02, step: 1d, {form} }} }}", _ => FakeServer.Json("""{"items":[]}"""));
        var query = HttpUtility.ParseQueryString(_pulls.Requests.Single().Query);
        (query["window.from"], query["window.to"]).ShouldBe((from, to));
    }

    [Fact]
    public async Task More_rows_of_one_second_than_the_API_gives_are_refused()
    {
        var refused = await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync("all: { get: '/rows', query: { from: '{window.from}' }, rows: /items, window: { from: 2026-03-01, to: 2026-03-02, step: 1h, at-most: 2 } }", _ => FakeServer.Json("""{"items":[{"id":1},{"id":2}]}""")));
        refused.Refusal.What.ShouldContain("there are at least 2 rows");
    }

    [Fact]
    public async Task Windows_repeat_for_each_strand_and_their_rows_make_strands_once()
    {
        await _pulls.RunAsync(
            """
            rows: { per: { name: depot, list: [a, b] }, carry: { depot: /value }, get: '/rows', query: { from: '{window.from}', to: '{window.to}', depot: '{depot}' }, rows: /items, window: { from: 2026-03-01, to: 2026-03-03, step: 1d, at-most: 200 } }
            details: { per: rows, get: '/details/{rows.at}', rows: { at: '', one: true } }
            """,
            request => request.RequestUri!.AbsolutePath == "/rows" ? Answer(request, 200) : FakeServer.Json("""{"seen":true}"""));
        _pulls.Rows["details"].Split('\n', StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(2 * 338);
    }

    [Theory]
    [InlineData("time", "2026-03-01T00:00:00Z", "2026-03-01T00:00:03Z", "2026-03-01T00:00:01Z")]
    [InlineData("date", "2026-03-01", "2026-03-04", "2026-03-02")]
    [InlineData("seconds", "100", "103", "101")]
    public void Halves_meet_at_a_whole_second_or_day(string form, string from, string to, string middle)
    {
        var window = new Window(default, default, TimeSpan.FromDays(1)) { Form = Enum.Parse<WindowForm>(form, ignoreCase: true) };
        window.Halves(from, to).ShouldBe([(from, middle), (middle, to)]);
        window.Halves(from, middle).ShouldBeNull();
    }

    private IEnumerable<DateTimeOffset> Landed() =>
        _pulls.Rows["all"].Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(row => DateTimeOffset.Parse(row[7..^2], CultureInfo.InvariantCulture)).Order();

    // Gives no more rows for a window than the cap, ten a page where it is paged; behind the cap it refuses or says that nothing follows.
    private static HttpResponseMessage Answer(HttpRequestMessage request, int cap, bool refuses = false, bool links = false)
    {
        var query = HttpUtility.ParseQueryString(request.RequestUri!.Query);
        var (from, to) = (DateTimeOffset.Parse(query["from"]!, CultureInfo.InvariantCulture), DateTimeOffset.Parse(query["to"]!, CultureInfo.InvariantCulture));
        var all = s_times.Where(time => time >= from && time < to).ToList();
        var page = int.Parse(query["page"] ?? "0");
        var size = page > 0 ? 7 : cap;
        if (query["at"] is { } at)
            (page, size) = (int.Parse(at), 10);
        if (refuses && (page - 1) * size >= cap)
            return FakeServer.Json("""{"error":"too many rows"}""", 400);
        var rows = all.Take(cap).Skip(Math.Max(0, page - 1) * size).Take(size).ToList();
        var next = !links || all.Count <= Math.Max(1, page) * 10 || (!refuses && Math.Max(1, page) * 10 >= cap) ? "null" : $"\"/rows?from={query["from"]}&to={query["to"]}&at={Math.Max(1, page) + 1}\"";
        if (next != "null" && page == 0)
            rows = [.. rows.Take(10)];
        return FakeServer.Json($$"""{"items":[{{string.Join(',', rows.Select(time => $"{{\"at\":\"{time:yyyy-MM-dd'T'HH:mm:ss'Z'}\"}}"))}}],"total":{{all.Count}},"next":{{next}}}""");
    }
}
