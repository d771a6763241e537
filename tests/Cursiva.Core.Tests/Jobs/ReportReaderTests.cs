using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>Reports, queries and comparisons of the job file, and every mistake that can be made with them.</summary>
public sealed class ReportReaderTests : IDisposable
{
    private const string Head = """
        cursiva: 1
        title: Weekly
        apis: { x: { base: https://x.example } }
        pulls:
          depots: { get: /, rows: "", key: /id }
        """;

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void A_report_of_parts_is_read_with_everything_it_says()
    {
        var job = Read("""
            memory: 256
            retain: 30d
            views: { late: select * from depots }
            compare: { depots: { ignore: [at] } }
            reports:
              r:
                parts:
                  late-now: { as: figure, unit: depots, sql: select count(*) from late }
                  bars: { as: stacked-bar, title: Bars, mark: { 8: limit, -2.5: lowest }, sql: select 1 }
                  words: { text: "One {run.date}.\n\nTwo." }
                write: [r.html, r.fragment.html, "{run.number}.xlsx", r.md.zst]
              one:
                sql: select 1
                title: One
                file-per: depot
                csv: { preset: spreadsheet, delimiter: ";", header: false, line-ends: lf }
                require: { at-least: 1, at-most: 9, rows-change: 20%, no-nulls: a, unique: [a, b], within: { n: [-1.5, 40000] } }
                write: "{depot}.csv.gz"
            """);
        (job.Memory, job.Keep).ShouldBe((256L * 1024 * 1024, new Keep(null, TimeSpan.FromDays(30))));
        job.Queries.ShouldHaveSingleItem().Sql.Text.ShouldBe("select * from depots");
        var comparison = job.Comparisons.ShouldHaveSingleItem();
        comparison.Key.ShouldBe(["id"]);
        comparison.Ignore.ShouldBe(["at"]);
        var report = job.Reports[0];
        report.Parts.Select(part => (part.Name, part.Kind, part.Title, part.Unit)).ShouldBe([("late-now", PartKind.Figure, "Late now", "depots"), ("bars", PartKind.StackedBar, "Bars", null), ("words", PartKind.Text, "Words", null)]);
        report.Parts[1].Thresholds.ShouldBe([new Threshold(8, "limit"), new Threshold(-2.5, "lowest")]);
        report.Parts[2].Words!.Fill(_ => "2026-03-09").ShouldBe("One 2026-03-09.\n\nTwo.");
        report.Files.Select(file => (file.Format.Suffix, file.Packing)).ShouldBe([(".html", FilePacking.None), (".fragment.html", FilePacking.None), (".xlsx", FilePacking.None), (".md", FilePacking.Zstd)]);
        var one = job.Reports[1];
        one.Csv.ShouldBe(new CsvForm(';', false, "\n", true, true));
        one.FilePer.ShouldBe("depot");
        var require = one.OnlyTable!.Require;
        (require.AtLeast, require.AtMost, require.RowsChange).ShouldBe((1, 9, 0.2));
        require.NoNulls.ShouldBe(["a"]);
        require.Unique.ShouldBe(["a", "b"]);
        require.Within.ShouldBe([("n", -1.5m, 40000m)]);
    }

    [Fact]
    public void The_only_report_of_a_job_has_its_title() => Read("reports: { r: { sql: select 1, write: r.csv } }").Reports[0].Title.ShouldBe("Weekly");

    [Theory]
    [InlineData("reports: { r: { write: r.csv } }", "has no 'sql'")]
    [InlineData("reports: { r: { sql: select 1, parts: {}, write: r.csv } }", "both sql: and parts:")]
    [InlineData("reports: { r: { sql: select 1, write: r.doc } }", "'r.doc' has no known suffix; end it with one of .csv")]
    [InlineData("reports: { r: { sql: select 1, write: r.xlsx.gz } }", "no known suffix")]
    [InlineData("reports: { r: { sql: select 1, write: r.svg } }", "holds one chart, and report 'r' has 0")]
    [InlineData("reports: { r: { parts: { a: { sql: select 1 }, b: { sql: select 2 } }, write: r.csv } }", "holds one table, and report 'r' has 2")]
    [InlineData("reports: { r: { parts: { a: { as: pie, sql: select 1 } }, write: r.md } }", "unknown as 'pie'")]
    [InlineData("reports: { r: { parts: { a: { as: bar, mark: { eight: limit }, sql: select 1 } }, write: r.md } }", "must have numbers before the colons, not 'eight'")]
    [InlineData("reports: { r: { parts: { a: { as: share, mark: { 8: limit }, sql: select 1 } }, write: r.md } }", "has mark: but is not a bar, stacked-bar or line")]
    [InlineData("reports: { r: { parts: { a: { as: figure } }, write: r.md } }", "has no 'sql'")]
    [InlineData("reports: { r: { parts: { a: { as: text } }, write: r.md } }", "has no 'text'")]
    [InlineData("reports: { r: { parts: { a: { as: bar, text: x, sql: select 1 } }, write: r.md } }", "make two parts of it")]
    [InlineData("reports: { r: { parts: { a: { sql: select 1 } }, require: { at-least: 1 }, write: r.md } }", "move it into that part")]
    [InlineData("reports: { r: { sql: select 1, file-per: d, write: r.csv } }", "put {d} into its name")]
    [InlineData("reports: { r: { parts: { a: { sql: select 1 }, b: { sql: select 2 } }, file-per: d, write: '{d}.md' } }", "splits the rows of one table")]
    [InlineData("reports: { r: { sql: select 1, csv: { delimiter: ab }, write: r.csv } }", "'ab' is not a delimiter")]
    [InlineData("reports: { r: { sql: select 1, require: { within: { n: [5, 1] } }, write: r.csv } }", "is not a range for 'n'")]
    [InlineData("reports: { r: { sql: select 1, require: { at-least: some }, write: r.csv } }", "write a whole number")]
    [InlineData("reports: { r: { sql: select 1, write: '{run.day}.csv' } }", "no input is named 'run.day'")]
    [InlineData("retain: forever", "'forever' does not say how many landings to keep")]
    [InlineData("retain: 0", "write a number of good runs from 1")]
    [InlineData("memory: 1", "write a whole number from 64")]
    [InlineData("views: { depots: select 1 }", "view 'depots' has the name of another table")]
    [InlineData("views: { run: select 1 }", "'run' cannot name a view")]
    [InlineData("views: { a-b: select 1 }", "'a-b' cannot name a view")]
    [InlineData("views: { q: [1] }", "view 'q' is not text")]
    [InlineData("compare: { depot: { key: a } }", "no pull is named 'depot'; did you mean 'depots'?")]
    public void Mistakes_are_told(string yaml, string said) =>
        Should.Throw<JobMistakesException>(() => Read(yaml)).Mistakes.Select(mistake => mistake.ToString()).ShouldContain(mistake => mistake.Contains(said));

    [Fact]
    public void A_comparison_without_a_key_is_a_mistake()
    {
        _folder.Write("job.cursiva.yaml", Head.Replace(", key: /id", "") + "\ncompare: { depots: {} }\n");
        Should.Throw<JobMistakesException>(() => JobReader.Read(_folder["job.cursiva.yaml"], Given, DateTimeOffset.UnixEpoch)).Mistakes.ShouldContain(mistake => mistake.Found.Contains("has no key"));
    }

    private static GivenInputs Given => new([], [], _ => null);

    private Job Read(string yaml)
    {
        _folder.Write("job.cursiva.yaml", Head + "\n" + yaml + "\n");
        return JobReader.Read(_folder["job.cursiva.yaml"], Given, DateTimeOffset.UnixEpoch);
    }
}
