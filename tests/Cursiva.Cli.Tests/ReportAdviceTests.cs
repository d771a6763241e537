namespace Cursiva.Cli.Tests;

/// <summary>Whatever keeps reports from being written: the command of its message writes them from the landed rows, once that is mended.</summary>
public sealed class ReportAdviceTests : IAsyncLifetime
{
    private const string Paging = ", paging: { cursor: /page/cursor, parameter: cursor }";

    private const string View = "\nviews:\n  late: select * from a\n";

    private const string Table = "\ndeliveries:\n  to-base: { table: { server: '127.0.0.1:1', security: none, database: base, user: jobs, password: env:BRACKWATER_SECRET, table: late, rows: merge, key: [reference], sql: 'select depot, reference from a' } }\n";

    private const string Writes = """

        writes:
          notices:
            sql: select depot, count(*) as weight from a group by depot
            key: [depot]
            require: { whole: weight > 0 }
            steps: { create: { post: /notices, body: { title: "{row.depot}", weight: "{row.weight}" } } }

        """;

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    /// <summary>The message; what the job has besides; a part of the job that is right, and what is wrong in its place.</summary>
    public static TheoryData<string, string, string, string, string, string> Mistakes => new()
    {
        { "ReportException.cs", "the SQL of {where} failed", "correct the SQL, and write the reports with cursiva report", "", "select count(*) as n from a,", "select cast(reference as integer) as n from a, require: { at-least: 0 }," },
        { "ReportException.cs", "the SQL of report '", "correct the SQL, and write the reports with cursiva report", "", "count(*) as n", "cast(reference as integer) as n" },
        { "ReportException.cs", "was not written, since a requirement failed", "check the rows; if they are right, change require: of the report, and write it with cursiva report", "", "write: r.csv", "require: { at-least: 9 }, write: r.csv" },
        { "ReportStage.cs", "the SQL of view '", "correct the SQL, and write the reports with cursiva report", View, "late: select * from a", "late: select nothing from a" },
        { "ReportStage.cs", "the tables of the reports cannot be made", "correct the job and write the reports with cursiva report", "", "rows: /items,", "rows: /items, columns: { weight_kg: integer }," },
        { "PullEnds.cs", "is not proven to be whole", "declare total:, pages: or more: in paging:, or remove complete from require:, and write the reports with cursiva report", "", Paging, ", require: complete" },
        { "DeliveryExtracts.cs", "the SQL of delivery '", "correct the SQL, and write the reports with cursiva report", Table, "select depot, reference", "select nothing, reference" },
        { "DeliveryExtracts.cs", "", "; then write the reports with cursiva report", Table, "key: [reference]", "key: [depot]" },
        { "WriteExtracts.cs", "the SQL of write '", "correct the SQL, and write the reports with cursiva report", Writes, "count(*) as weight", "nothing as weight" },
        { "WriteExtracts.cs", "the condition '", "; nothing is fetched again by cursiva report", Writes, "whole: weight > 0", "whole: nothing > 0" },
        { "WriteExtracts.cs", "sent nothing, since a condition failed", ", and write the reports again with cursiva report", Writes, "whole: weight > 0", "whole: weight > 9000" },
        { "WriteExtracts.cs", "", "; then write the reports with cursiva report", Writes, "{row.weight}", "{row.wait}" },
    };

    [Theory]
    [MemberData(nameof(Mistakes))]
    public async Task Reports_are_written_from_landed_rows_once_the_job_is_right(string file, string what, string step, string more, string right, string wrong)
    {
        using var job = Plain(more);
        job.Yaml.ShouldContain(right);
        await MendedAsync(job, new Advised(file, what, step), () => job.Yaml = job.Yaml.Replace(right, wrong), () => job.Yaml = job.Yaml.Replace(wrong, right));
    }

    [Fact]
    public async Task Reports_are_written_once_their_folder_can_be()
    {
        using var job = Plain();
        var advised = new Advised("ReportException.cs", "cannot be written: {", "and write the reports with cursiva report");
        await MendedAsync(job, advised, () => Directory.CreateDirectory(job["reports/r.csv"]), () => Directory.Delete(job["reports/r.csv"]));
    }

    [Fact]
    public async Task What_is_to_leave_is_put_aside_once_there_is_room()
    {
        using var job = Plain("\ndeliveries:\n  share: { report: r, folder: { path: share } }\n");
        var advised = new Advised("DeliveryStage.cs", "the deliveries cannot be stored", "make room in the state folder, and write the reports with cursiva report");
        var outbox = job["state/jobs/late/outbox"];
        Directory.CreateDirectory(Path.GetDirectoryName(outbox)!);
        await MendedAsync(job, advised, () => File.WriteAllText(outbox, "in the way"), () => File.Delete(outbox));
        File.Exists(job["share/r.csv"]).ShouldBeTrue();
    }

    [Theory]
    [InlineData("EmptyPulls.cs", "is empty, since", ", and write the reports with cursiva report", "get: '/consignments?size=50'", "get: '/consignments?size=50&since=2199-01-01'", ", rows: /items", ", rows: /items, allow-empty: true")]
    [InlineData("ReportStage.cs", "the columns differ from those of the last good run", "check the change; if it is right, remove same-columns from require:, and write the reports with cursiva report", "rows: /items,", "rows: /items, omit: [/goods], require: same-columns,", "require: same-columns,", "")]
    public async Task A_change_of_the_rows_is_accepted_by_the_line_that_the_message_gives(string file, string what, string step, string before, string now, string line, string accepted)
    {
        using var job = Plain();
        (await job.RunAsync()).ShouldEndWith(0);
        File.Delete(job["reports/r.csv"]);
        await MendedAsync(job, new Advised(file, what, step), () => job.Yaml = job.Yaml.Replace(before, now), () => job.Yaml = job.Yaml.Replace(line, accepted));
    }

    [Fact]
    public async Task A_run_that_wrote_no_report_is_told_with_the_command_that_writes_one()
    {
        using var job = Plain();
        job.Yaml = job.Yaml.Replace("count(*) as n", "nothing as n");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(8);
        var again = (await job.RunAsync()).ShouldEndWith(8);
        job.Yaml = job.Yaml.Replace("nothing as n", "count(*) as n");
        job.Save();
        await WritesAsync(job, new Advised("StartDecision.cs", "has all its rows but wrote no report", "cursiva report").CommandIn(again.Error));
    }

    private Job Plain(string more = "")
    {
        var job = new Job(_cloud.Address, $"a: {{ get: '/consignments?size=50', rows: /items{Paging} }}", "r: { sql: select count(*) as n from a, write: r.csv }");
        job.Yaml += more;
        job.Save();
        return job;
    }

    private async Task MendedAsync(Job job, Advised advised, Action spoil, Action mend)
    {
        spoil();
        job.Save();
        var failed = (await job.RunAsync("--new")).ShouldEndWith(8);
        var command = advised.CommandIn(failed.Error);
        mend();
        job.Save();
        await WritesAsync(job, command);
    }

    private async Task WritesAsync(Job job, string command)
    {
        var asked = await ListedAsync();
        var ended = await Advised.RunAsync(command, job.Folder, job.Environment);
        File.Exists(job["reports/r.csv"]).ShouldBeTrue(ended.All);
        ended.Code.ShouldBe(job.Yaml.Contains("to-base") ? 9 : 0, ended.All);
        (await ListedAsync()).ShouldBe(asked, "nothing is fetched again");
    }

    private async Task<long> ListedAsync() => (await _cloud.StatisticsAsync()).GetProperty("paths").EnumerateObject().Where(path => path.Name.EndsWith("/consignments", StringComparison.Ordinal)).Sum(path => path.Value.GetInt64());
}
