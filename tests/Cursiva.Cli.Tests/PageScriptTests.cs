using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>The page of a report as its readers use it, in a browser without a window.</summary>
public sealed class PageScriptTests(PageScriptTests.Written page) : IClassFixture<PageScriptTests.Written>
{
    [Fact]
    public async Task The_first_rows_are_in_sight_and_the_others_a_page_away()
    {
        var seen = await UseAsync();
        seen.Count.ShouldBe("1–50 of 50\u202f000 rows");
        (seen.Tools, seen.Back, seen.Next).ShouldBe((true, false, true));
        seen.Rows.Length.ShouldBe(50);
        seen.Rows[0].ShouldBe(["0", "depot 0", "0"]);
        var second = await UseAsync("next", "next", "back");
        second.Count.ShouldBe("51–100 of 50\u202f000 rows");
        second.Rows[0][0].ShouldBe("50");
        second.Back.ShouldBeTrue();
    }

    [Fact]
    public async Task A_column_of_numbers_is_sorted_as_numbers_both_ways_and_nulls_stand_last()
    {
        var up = await UseAsync("sort=2");
        up.Sorted.ShouldBe(["", "", "ascending"]);
        up.Rows[1].ShouldBe(["1", "depot 1", "2"]);
        up.Rows[5][2].ShouldBe("10");
        var down = await UseAsync("sort=2", "sort=2");
        down.Sorted[2].ShouldBe("descending");
        down.Rows[0][2].ShouldBe("99\u202f996");
        foreach (var steps in new[] { ["filter=4999", "sort=2"], new[] { "filter=4999", "sort=2", "sort=2" } })
            (await UseAsync(steps)).Rows[^1][2].ShouldBe("–");
    }

    [Fact]
    public async Task Rows_are_filtered_by_every_word_whatever_its_case()
    {
        var seen = await UseAsync("filter=DEPOT 49999");
        seen.Count.ShouldBe("1–1 of 1 rows, 50\u202f000 in all");
        seen.Rows.ShouldHaveSingleItem()[0].ShouldBe("49\u202f999");
        (await UseAsync("filter=nothing like it")).Count.ShouldBe("no rows");
        (await UseAsync("filter=49999", "filter=")).Count.ShouldBe("1–50 of 50\u202f000 rows");
    }

    [Fact]
    public async Task Hostile_values_are_seen_as_words_and_nothing_is_asked_for()
    {
        var seen = await UseAsync("filter=onerror");
        seen.Rows.ShouldHaveSingleItem()[1].ShouldBe("</script><img src=x onerror=alert(1)>");
        seen.Images.ShouldBe(0);
        seen.Errors.ShouldBeEmpty();
        seen.Requests.ShouldBeEmpty();
    }

    private async Task<Seen> UseAsync(params string[] steps)
    {
        var home = Path.Combine(App.Root, "tests", "real");
        Tools.Require("node");
        Assert.SkipUnless(Directory.Exists(Path.Combine(home, "node_modules", "jsdom")), "the browser without a window is not installed; npm ci in tests/real installs it");
        var ended = (await App.RunAsync("node", ["page.mjs", page.Path, .. steps], home, [])).ShouldEndWith(0);
        return JsonSerializer.Deserialize<Seen>(ended.Out, JsonSerializerOptions.Web)!;
    }

    private sealed record Seen(string[] Errors, string[] Requests, string Count, bool Tools, bool Back, bool Next, string[] Sorted, string[][] Rows, int Images);

    /// <summary>A page of 50,000 rows, written once.</summary>
    public sealed class Written : IAsyncLifetime
    {
        private StandIn? _cloud;
        private Job? _job;

        public string Path => _job!["reports/rows.html"];

        public async ValueTask InitializeAsync()
        {
            _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "5");
            _job = new Job(_cloud.Address, "consignments: { get: /consignments, rows: /items }", """
                rows:
                  sql: |
                    select i as n, case when i = 7 then '</script><img src=x onerror=alert(1)>' else 'depot ' || i end as depot, case when i = 49999 then null else i * 2 end as twice
                    from range(50000) r(i)
                  write: rows.html
                """);
            (await _job.RunAsync()).ShouldEndWith(0);
        }

        public ValueTask DisposeAsync()
        {
            _job?.Dispose();
            _cloud?.Dispose();
            return ValueTask.CompletedTask;
        }
    }
}
