using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Every style of paging against the stand-in: all rows, in order, and no request past the end.</summary>
public sealed class PagingTests : IAsyncLifetime
{
    private const string All = "all: { sql: select * from p, write: all.jsonl }";

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "103", "--page-size", "10", "--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    // 103 rows at 10 a page are 11 pages, the last one short; at 50 a page it is 3.
    [Theory]
    [InlineData("get: '/consignments?size=10', rows: /items, paging: { next-link: /links/next }", 11)]
    [InlineData("get: '/consignments?size=10&links=relative', rows: /items, paging: { next-link: /links/next }", 11)]
    [InlineData("get: '/by/link-header?size=10', rows: '', paging: { link-header: next }", 11)]
    [InlineData("get: '/by/page?tell=pages', rows: /items, paging: { page-number: 1, parameter: page, pages: /pages }", 11)]
    [InlineData("get: '/by/page?tell=total&base=0', rows: /items, paging: { page-number: 0, parameter: page, total: /total }", 11)]
    [InlineData("get: '/by/page?tell=more', rows: /items, paging: { page-number: 1, parameter: page, more: /more }", 11)]
    [InlineData("get: '/by/page', rows: /items, paging: { page-number: 1, parameter: page, page-size: 10, size-parameter: size }", 11)]
    [InlineData("get: '/by/page', rows: /items, paging: { page-number: 1, parameter: page }", 12)]
    [InlineData("get: '/by/offset?tell=total', rows: /items, paging: { offset: 0, parameter: offset, total: /total, page-size: 50, size-parameter: limit }", 3)]
    [InlineData("get: '/by/offset?base=1', rows: /items, paging: { offset: 1, parameter: offset, page-size: 50, size-parameter: limit }", 3)]
    [InlineData("get: '/by/offset?limit=10', rows: /items, paging: { offset: 0, parameter: offset }", 12)]
    [InlineData("get: '/consignments?size=10', rows: /items, paging: { cursor: /page/cursor, parameter: cursor }", 11)]
    [InlineData("get: '/by/cursor-header?size=10', rows: '', paging: { cursor-header: X-Next-Cursor, header: X-After }", 11)]
    [InlineData("post: /by/search, body: { exact: true, page: { size: 10 } }, rows: /found, paging: { cursor: /after, body-at: /page/after }", 11)]
    [InlineData("get: '/by/key?size=10', rows: '', paging: { keyset: /id, parameter: after, page-size: 10 }", 11)]
    [InlineData("get: '/by/batches?size=1000', rows: { at: /batches, inside: /rows }", 1)]
    [InlineData("get: '/by/path/{page}', rows: /items, paging: { page-number: 1, placeholder: page, total: /total }", 11)]
    [InlineData("post: /by/object-cursor, body: { what: all }, rows: /items, paging: { cursor: /after, body-at: /after }", 11)]
    [InlineData("get: /by/number-cursor, rows: /items, paging: { cursor: /next, parameter: after }", 11)]
    [InlineData("get: /by/two-cursors, rows: /items, paging: { cursor: [/next/row, /next/check], parameter: row, header: X-Check }", 11)]
    [InlineData("get: /by/two-keys, rows: /items, paging: { keyset: [/booked_at, /id], parameter: [time, id], page-size: 10 }", 11)]
    [InlineData("get: /by/links, rows: /items, paging: { next-link: { at: /links } }", 11)]
    [InlineData("get: '/by/counted-in-headers?tell=total', rows: /items, paging: { page-number: 1, parameter: page, total-header: X-Total-Count }", 11)]
    [InlineData("get: '/by/counted-in-headers?tell=pages', rows: /items, paging: { page-number: 1, parameter: page, pages-header: X-Page-Count }", 11)]
    [InlineData("get: '/by/counted-in-headers', rows: /items, paging: { page-number: 1, parameter: page, end-status: 404 }", 12)]
    [InlineData("get: '/by/counted-in-headers?behind=204', rows: /items, paging: { page-number: 1, parameter: page }", 12)]
    [InlineData("get: /by/window, query: { from: '{window.from}', to: '{window.to}', cap: '20' }, rows: /items, window: { from: 2026-03-02, to: 2026-03-30, step: 14d, at-most: 20 }", 14)]
    [InlineData("get: /stream/sequence, paging: { stream: sequence }", 1)]
    [InlineData("get: /stream/lines, paging: { stream: lines }", 1)]
    [InlineData("get: /stream/array, paging: { stream: array }", 1)]
    [InlineData("get: /stream/batches, rows: { inside: /rows }, paging: { stream: array }", 1)]
    public async Task All_rows_arrive_in_order_with_no_request_past_the_end(string pull, int requests)
    {
        using var job = new Job(_cloud.Address, $"p: {{ {pull} }}", All);
        (await job.RunAsync()).ShouldEndWith(0);
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(requests);
        await ShouldHaveAllAsync(job);
    }

    [Fact]
    public async Task Rows_in_several_places_in_batches_of_values_and_of_exports_are_all_there()
    {
        using var job = new Job(
            _cloud.Address,
            """
            several: { get: /by/several, rows: { at: [/added, /changed], place-as: kind }, paging: { cursor: /next, parameter: after } }
            days: { get: /by/days, rows: { inside: /rows, carry: { batch: /batch } } }
            ids: { get: /by/values, rows: { at: '', value-as: id } }
            details: { per: { pull: ids, batch: 50 }, get: /by/ids, query: { id: ['{ids.id}'] }, rows: '' }
            commas: { per: { pull: ids, batch: 50 }, get: /by/ids, query: { id: '{ids.id}' }, rows: '' }
            csv: { get: /stream/csv, paging: { stream: csv } }
            checked: { post: '/exports?form=lines', export: { every: 1s, files: /parts, link: /url, rows: /rows, bytes: /bytes, sha256: /sha256 } }
            elsewhere: { post: '/exports?form=see-other', export: { every: 1s, result: rows } }
            answered: { post: '/exports?form=rows', export: { every: 1s, result: rows } }
            utf16: { get: /by/utf-16, rows: '' }
            mislabelled: { get: /by/mislabelled, rows: '' }
            """,
            """
            all:
              sql: |
                select 'several' as pull, count(*) as rows, count(distinct id) as ids, count(distinct kind) as more from several
                union all select 'days', count(*), count(distinct id), count(distinct batch) from days
                union all select 'details', count(*), count(distinct id), 0 from details
                union all select 'commas', count(*), count(distinct id), 0 from commas
                union all select 'csv', count(*), count(distinct id), 0 from csv
                union all select 'checked', count(*), count(distinct id), 0 from checked
                union all select 'elsewhere', count(*), count(distinct id), 0 from elsewhere
                union all select 'answered', count(*), count(distinct id), 0 from answered
                union all select 'utf16', count(*), count(distinct id), 0 from utf16
                union all select 'mislabelled', count(*), count(distinct id), 0 from mislabelled
              write: all.csv
            """,
            api: "also-origins: { 'ELSEWHERE': bare }".Replace("ELSEWHERE", await _cloud.ElsewhereAsync()));
        (await job.RunAsync()).ShouldEndWith(0);
        File.ReadAllLines(job["reports/all.csv"]).Skip(1).ShouldBe(["several,103,103,2", "days,103,103,11", "details,103,103,0", "commas,103,103,0", "csv,103,103,0", "checked,103,103,0", "elsewhere,103,103,0", "answered,103,103,0", "utf16,103,103,0", "mislabelled,103,103,0"]);
        (await _cloud.StatisticsAsync()).GetProperty("paths").GetProperty("/v2/by/ids").GetInt32().ShouldBe(6);
    }

    [Theory]
    [InlineData("ignores-page", "total: /total", "has the rows of an earlier page again")]
    [InlineData("hole", "total: /total", "a page in the middle of the listing has no rows")]
    [InlineData("short", "", "")]
    [InlineData("short", "total: /total", "the API announced 103 rows")]
    [InlineData("error-with-200", "total: /total", "mentions an error at /error")]
    [InlineData("words", "more: /more", "is 'Y', but only true, false, 1 and 0")]
    [InlineData("words", "more: { at: /more, is: Y }", null)]
    [InlineData("capped", "total: /total, page-size: 40, size-parameter: size", null)]
    public async Task A_mood_of_the_API_is_seen_through(string mood, string more, string? refused)
    {
        using var job = new Job(_cloud.Address, $"p: {{ get: /moods/{mood}, rows: /items, paging: {{ page-number: 1, parameter: page{(more.Length > 0 ? ", " + more : "")} }} }}", All);
        var ended = await job.RunAsync();
        if (refused is { Length: > 0 })
            ended.ShouldEndWith(5).Error.ShouldContain(refused);
        else if (refused is null)
            await ShouldHaveAllAsync(job);
        else
            ended.ShouldEndWith(0).Out.ShouldContain("a page without rows");
    }

    [Fact]
    public async Task Ever_new_links_to_the_same_rows_end()
    {
        using var job = new Job(_cloud.Address, "p: { get: /moods/new-links, rows: /items, paging: { next-link: /next } }", All);
        (await job.RunAsync()).ShouldEndWith(5).Error.ShouldContain("would never end");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBeLessThan(5);
    }

    [Theory]
    [InlineData("get: '/by/page?tell=total', rows: /items, paging: { page-number: 1, parameter: page, total: /total }", 11)]
    [InlineData("get: '/by/offset?tell=total&limit=10', rows: /items, paging: { offset: 0, parameter: offset, total: /total }", 11)]
    [InlineData("get: '/by/page?tell=pages', rows: /items, paging: { page-number: 1, parameter: page, pages: /pages }", 11)]
    public async Task Pages_that_can_be_counted_are_fetched_side_by_side_and_land_in_order(string pull, int requests)
    {
        using var cloud = await StandIn.StartAsync("--rows", "103", "--page-size", "10", "--latency", "40", "--jitter", "60", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, $"p: {{ {pull}, parallel: 4 }}", All);
        (await job.RunAsync()).ShouldEndWith(0);
        var seen = await cloud.StatisticsAsync();
        seen.GetProperty("requests").GetInt32().ShouldBe(requests);
        seen.GetProperty("most_at_once").GetInt32().ShouldBeInRange(2, 4);
        await ShouldHaveAllAsync(job);
    }

    [Theory]
    [InlineData("lines")]
    [InlineData("array")]
    [InlineData("batches")]
    public async Task A_stream_that_breaks_begins_again_and_nothing_is_doubled(string form)
    {
        var pull = form == "batches" ? "rows: { inside: /rows }, paging: { stream: array }" : $"paging: {{ stream: {form} }}";
        using var cloud = await StandIn.StartAsync("--rows", "5000", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, $"p: {{ get: '/stream/{form}?break=2', {pull} }}", All);
        var ended = (await job.RunAsync("--format", "json")).ShouldEndWith(0);
        JsonDocument.Parse(ended.Out).RootElement.GetProperty("retries").GetInt32().ShouldBe(2);
        File.ReadAllLines(job["reports/all.jsonl"]).ShouldBe((await cloud.RowsAsync("consignments")).Select(row => row.GetRawText()));
    }

    [Fact]
    public async Task A_stream_needs_no_more_memory_when_it_is_ten_times_as_long()
    {
        var peaks = new List<double>();
        foreach (var rows in new[] { "30000", "300000" })
        {
            using var cloud = await StandIn.StartAsync("--rows", rows, "--client-secret", Job.Secret);
            using var job = new Job(cloud.Address, "p: { get: /stream/array, paging: { stream: array } }");
            peaks.Add(await Tools.PeakMemoryAsync(job));
        }

        peaks[1].ShouldBeLessThan(peaks[0] + 40, "the longer stream is 80 MB");
    }

    [Fact]
    public async Task A_listing_that_never_ends_is_given_up()
    {
        using var job = new Job(_cloud.Address, "p: { get: /by/endless, rows: /items, paging: { cursor: /cursor, parameter: after } }");
        var ended = (await job.RunAsync()).ShouldEndWith(5);
        ended.Error.ShouldContain("pull 'p' would never end: 100 pages in a row had no rows");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBeLessThan(110);
    }

    [Theory]
    [InlineData("report", false)]
    [InlineData("again", true)]
    public async Task A_listing_that_shifts_is_noticed_and_taken_again_where_the_job_says_so(string what, bool again)
    {
        using var cloud = await StandIn.StartAsync("--rows", "103", "--page-size", "10", "--client-secret", Job.Secret, "--quirk", "shifting");
        using var job = new Job(cloud.Address, $"p: {{ get: '/by/offset?limit=10', rows: /items, key: /id, parallel: 1, paging: {{ offset: 0, parameter: offset, when-shifted: {what} }} }}");
        var ended = (await job.RunAsync()).ShouldEndWith(0);
        ended.Error.ShouldContain("shifted while it was paged: a row came twice");
        if (again)
            ended.Error.ShouldContain("fetched again from its first page");
        else
            ended.Error.ShouldNotContain("taken again");
    }

    [Fact]
    public async Task A_total_that_moves_is_noticed()
    {
        using var cloud = await StandIn.StartAsync("--rows", "103", "--page-size", "10", "--client-secret", Job.Secret, "--quirk", "shifting");
        using var job = new Job(cloud.Address, "p: { get: '/by/page?tell=total', rows: /items, parallel: 1, paging: { page-number: 1, parameter: page, total: /total } }");
        (await job.RunAsync()).ShouldEndWith(0).Error.ShouldContain("its total changed from 103 to 104");
    }

    [Fact]
    public async Task A_place_that_the_API_has_forgotten_is_taken_again_from_the_first_page_once()
    {
        using var job = new Job(_cloud.Address, "p: { get: /odd/expired/first, rows: /items, paging: { next-link: /next } }");
        var ended = (await job.RunAsync()).ShouldEndWith(5);
        ended.Error.ShouldContain("the API no longer knows the place from which pull 'p' continues (status 410");
        ended.Error.ShouldContain("fetched again from its first page");
        ended.Error.ShouldContain("this cursor is too old");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(4);
    }

    private async Task ShouldHaveAllAsync(Job job) =>
        File.ReadAllLines(job["reports/all.jsonl"]).ShouldBe((await _cloud.RowsAsync("consignments")).Select(row => row.GetRawText()));
}
