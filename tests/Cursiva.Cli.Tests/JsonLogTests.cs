using System.Diagnostics;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary><c>--log json</c> is JSON to the last line, however a command ends, and the last line says how.</summary>
public sealed class JsonLogTests : IAsyncLifetime
{
    private const string Listing = "consignments: { get: '/consignments?size=50', rows: /items, paging: { next-link: /links/next } }";

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "2000", "--latency", "5", "--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    public static TheoryData<int, string, string, string, string> Ends => new()
    {
        { 0, Listing, "all: { sql: select count(*) as rows from consignments, write: all.csv }", "", "" },
        { 3, Listing + "\nother: { gett: /x }", "", "", "mistake" },
        { 5, "consignments: { get: /nowhere, rows: /items }", "", "", "refused" },
        { 6, "t: { per: { name: t, list: [{ id: 900001 }, { id: 900002 }] }, get: '/tenants/{t.id}/scans', rows: /items, skip-when: [{ status: 404 }], allow-skips: 0 }", "", "", "refused" },
        { 7, Listing, "", "--max-requests 3", "refused" },
        { 8, Listing, "all: { sql: select * from consignments, write: all.csv, require: { at-least: 1000000 } }", "", "refused" },
        { 2, Listing, "", "--deadline soon", "refused" },
        { 2, Listing, "", "--inputt x=1", "refused" },
        { 2, Listing, "", "--input nothing=1", "mistake" },
        { 1, Listing, "", "--state late.cursiva.yaml", "refused" },
    };

    [Theory]
    [MemberData(nameof(Ends))]
    public async Task Every_line_is_an_object_and_the_last_says_how_it_ended(int code, string pulls, string reports, string more, string told)
    {
        using var job = new Job(_cloud.Address, pulls, reports);
        var ended = (await job.RunAsync(["--log", "json", .. more.Split(' ', StringSplitOptions.RemoveEmptyEntries)])).ShouldEndWith(code);
        var last = Check(ended, code);
        if (told.Length > 0)
        {
            var line = Lines(ended).First(line => line.GetProperty("event").GetString() == told);
            line.GetProperty("level").GetString().ShouldBe("error");
            (line.TryGetProperty("next-step", out var next) || line.TryGetProperty("right", out next)).ShouldBeTrue(line.GetRawText());
            next.GetString().ShouldNotBeNullOrEmpty();
        }

        if (code is 0 or 7)
            last.GetProperty("rows").GetInt64().ShouldBe(code == 0 ? 2000 : 150);
        if (code == 7)
            Lines(ended).First(line => line.GetProperty("event").GetString() == "refused").GetProperty("resume").GetString().ShouldBe($"cursiva run {job.Path}");
    }

    [Fact]
    public async Task A_refused_sign_in_is_an_event()
    {
        using var job = new Job(_cloud.Address, Listing);
        var ended = (await job.DoAsync(["run", job.Path, "--log", "json"], environment: ("BRACKWATER_SECRET", "wrong"))).ShouldEndWith(4);
        Check(ended, 4);
        Lines(ended).First(line => line.GetProperty("event").GetString() == "refused").GetProperty("answer").GetString()!.ShouldContain("invalid_client");
    }

    [Fact]
    public async Task A_delivery_that_has_not_left_is_told()
    {
        using var job = new Job(_cloud.Address, Listing, "all: { sql: select count(*) as rows from consignments, write: all.csv }", top: "deliveries: { desk: { report: all, folder: { path: /proc/nowhere } } }");
        Check((await job.RunAsync("--log", "json")).ShouldEndWith(9), 9);
    }

    [Theory]
    [InlineData("-INT", 130)]
    [InlineData("-TERM", 143)]
    public async Task A_stop_ends_with_its_line_and_another_start_meanwhile_with_its_own(string signal, int code)
    {
        using var job = new Job(_cloud.Address, Listing.Replace("size=50", "size=1"));
        Ended? second = null;

        // Whoever runs the tests in the background may have them ignore SIGINT, and what they start with them.
        var ended = await App.RunAsync("env", ["--default-signal", App.Cursiva, "run", job.Path, "--log", "json"], job.Folder, job.Environment, async process =>
        {
            await _cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 10);
            second = await job.RunAsync("--log", "json");
            Process.Start("kill", [signal, process.Id.ToString()]).WaitForExit();
        });
        Check(second!.ShouldEndWith(10), 10);
        Check(ended.ShouldEndWith(code), code).GetProperty("rows").GetInt64().ShouldBeGreaterThan(0);
    }

    [Theory]
    [InlineData("check {job} --log json", 0)]
    [InlineData("token get {job} --log json", 0)]
    [InlineData("call {job} exchange /nowhere --log json", 5)]
    [InlineData("token get {job} nobody --log json", 2)]
    public async Task Every_command_that_takes_it_keeps_to_it(string command, int code)
    {
        using var job = new Job(_cloud.Address, Listing);
        Check((await job.DoAsync(command.Replace("{job}", job.Path).Split(' '))).ShouldEndWith(code), code);
    }

    private static JsonElement Check(Ended ended, int code)
    {
        var lines = Lines(ended);
        var documented = File.ReadAllText(Path.Combine(App.Root, "docs", "log.md"));
        foreach (var line in lines)
        {
            line.GetProperty("level").GetString().ShouldBeOneOf("debug", "info", "warning", "error");
            line.GetProperty("message").GetString().ShouldNotBeNullOrEmpty();
            documented.ShouldContain($"| `{line.GetProperty("event").GetString()}` |");
        }

        lines[^1].GetProperty("event").GetString().ShouldBe("ended");
        lines.Count(line => line.GetProperty("event").GetString() == "ended").ShouldBe(1);
        lines[^1].GetProperty("exit-code").GetInt32().ShouldBe(code);
        lines[^1].GetProperty("took-s").GetDouble().ShouldBeGreaterThanOrEqualTo(0);
        lines[^1].GetProperty("level").GetString().ShouldBe(code == 0 ? "info" : "error");
        return lines[^1];
    }

    private static List<JsonElement> Lines(Ended ended) => [.. ended.Error.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(line => JsonDocument.Parse(line).RootElement)];
}
