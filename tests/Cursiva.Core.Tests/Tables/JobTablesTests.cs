using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Tables;

/// <summary>Rows are put into a table where they are needed more than once, and nowhere else.</summary>
public sealed class JobTablesTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("all: { sql: select * from depots, write: [all.csv, all.parquet] }", false)]
    [InlineData("all: { sql: select upper(id) as id from depots where id > 'a' order by 1, write: all.xlsx }", false)]
    [InlineData("none: { sql: select 1 as one, write: none.csv }", false)]
    [InlineData("all: { sql: select * from depots, write: all.csv }\n  few: { sql: select * from depots limit 3, write: few.csv }", true)]
    [InlineData("all: { sql: select * from named, write: all.csv }\nviews: { named: select * from depots }", true)]
    [InlineData("all: { sql: select * from added.depots, write: all.csv }\ncompare: { depots: { key: id } }", true)]
    [InlineData("all: { sql: select * from depots union all select * from before.depots, write: all.csv }", true)]
    public async Task A_pull_is_staged_unless_one_report_reads_it_once(string reports, bool isStaged)
    {
        var job = Read(reports);
        await using var landing = new RunLanding(new Disk(), _folder["landing"], TimeProvider.System);
        var landed = landing.Open("depots");
        landed.Append(StrandKey.Only, Encoding.UTF8.GetBytes("{\"id\":\"a\"}\n{\"id\":\"b\"}\n"), 2, null);
        await landing.CommitAsync(CancellationToken.None);

        using var database = new Database(_folder.Path, 64 * 1024 * 1024);
        var tables = new JobTables(database, job);
        tables.Stage(job.Pulls[0], [landing.Read("depots")], [], CancellationToken.None);
        tables.Rows.ShouldBe(2);
        database.All("select count(*)::varchar from duckdb_tables() where table_name = 'depots'")[0][0].ShouldBe(isStaged ? "1" : "0");
        database.All("select id from depots order by id").Select(row => row[0]).ShouldBe(["a", "b"]);
    }

    private Job Read(string reports)
    {
        File.WriteAllText(_folder["job.cursiva.yaml"], $$"""
            cursiva: 1
            apis: { exchange: { base: "https://api.example" } }
            pulls:
              depots: { get: /depots, rows: /items }
            reports:
              {{reports}}
            """);
        return JobReader.Read(_folder["job.cursiva.yaml"], new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
    }
}
