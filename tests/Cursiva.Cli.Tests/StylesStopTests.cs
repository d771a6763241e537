using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>Jobs of all styles, killed at random moments: the landing is byte for byte that of an undisturbed run.</summary>
public sealed class StylesStopTests
{
    // A longer measurement asks for more by CURSIVA_KILLS.
    private static readonly int s_kills = int.TryParse(Environment.GetEnvironmentVariable("CURSIVA_KILLS"), out var kills) ? kills : 20;

    private static readonly string[] s_cloud = ["--rows", "900", "--page-size", "20", "--tenants", "6", "--latency", "6", "--jitter", "10", "--client-secret", Job.Secret];

    private static readonly string[] s_jobs =
    [
        """
        pages: { get: '/by/page?tell=total&size=10', rows: /items, parallel: 4, paging: { page-number: 1, parameter: page, total: /total } }
        offsets: { get: '/by/offset', rows: /items, paging: { offset: 0, parameter: offset, page-size: 30, size-parameter: limit } }
        """,
        """
        stream: { get: /stream/array, paging: { stream: array } }
        keys: { get: '/by/key', rows: '', paging: { keyset: /id, parameter: after, page-size: 20 } }
        links: { get: '/by/link-header', rows: '', paging: { link-header: next } }
        """,
        """
        tenants: { get: '/tenants?size=4', rows: /items, paging: { next-link: /next } }
        scans:
          per: tenants
          carry: { tenant: /id }
          get: '/tenants/{tenants.id}/scans'
          rows: /items
          paging: { next-link: /next }
          skip-when: [{ status: 403 }]
        events: { per: scans, get: '/tenants/{tenants.id}/scans/{scans.id}/events', rows: '', parallel: 12 }
        """,
        """
        folders:
          get: /folders/root/children
          rows: /items
          paging: { next-link: /next }
          opens: { when: { /kind: folder }, get: "/folders/{folders.id}/children" }
        """,
        """
        export:
          post: /exports?form=lines
          export: { state: /state, done: [ready], files: /parts, link: /url }
        """,
    ];

    [Fact]
    public async Task Killed_at_random_moments_jobs_of_all_styles_land_the_same()
    {
        using var cloud = await StandIn.StartAsync(s_cloud);
        var elsewhere = await cloud.ElsewhereAsync();
        var random = new Random(20261125);
        var (kills, wentOn) = (0, 0);
        foreach (var pulls in s_jobs)
        {
            using var undisturbed = NewJob(cloud, elsewhere, pulls);
            var requests = await RequestsAsync(cloud);
            (await undisturbed.RunAsync()).ShouldEndWith(0);
            requests = await RequestsAsync(cloud) - requests;
            var expected = undisturbed.LandedRows();
            var before = kills;
            while (kills < before + (s_kills / s_jobs.Length))
            {
                using var job = NewJob(cloud, elsewhere, pulls);
                while (true)
                {
                    var ended = await job.DoAsync(["run", job.Path], KillAfter(cloud, random.Next(1, requests), random.Next(0, 12)));
                    wentOn += ended.Error.Contains("resuming run 1") ? 1 : 0;
                    if (ended.Code == 137)
                    {
                        kills++;
                        continue;
                    }

                    ended.ShouldEndWith(0);
                    break;
                }

                job.LandedRows().ShouldBe(expected);
            }
        }

        wentOn.ShouldBeGreaterThan(s_kills / 4, "many kills must have met a run that had begun");
    }

    private static async Task<int> RequestsAsync(StandIn cloud) => (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32();

    private static Job NewJob(StandIn cloud, string elsewhere, string pulls) => new(cloud.Address, pulls, api: $"also-origins: {{ '{elsewhere}': bare }}");

    private static Func<Process, Task> KillAfter(StandIn cloud, int requests, int milliseconds) => async process =>
    {
        var before = await RequestsAsync(cloud);
        while (!process.HasExited && await RequestsAsync(cloud) < before + requests)
            await Task.Delay(3);
        await Task.Delay(milliseconds);
        process.Kill();
    };
}
