using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;
using Cursiva.Core.Tests.Tables;

namespace Cursiva.Core.Tests.Reports;

public sealed class ReportFilesTests : IDisposable
{
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Fact]
    public void CSV_follows_RFC_4180() =>
        _fixture.Write("select 'a,b' as \"x,\"\"y\"\"\", 'line' || chr(10) || 'break' as b, 'say \"hi\"' as c, 'plain' as d, '' as e, null as f").ShouldBe(
            "\"x,\"\"y\"\"\",b,c,d,e,f\r\n\"a,b\",\"line\nbreak\",\"say \"\"hi\"\"\",plain,\"\",\r\n");

    [Fact]
    public void JSON_lines_have_every_kind_as_it_is() =>
        _fixture.Write("select 1 as n, 1.50 as d, true as b, null as z, chr(9) || '\"\\é' as t, [1, 2] as l, {'a': 'x'} as o, timestamp '2026-03-02 01:02:03.5' as ts, date '2026-03-02' as day, 0.1::double as f;", "out.jsonl").ShouldBe(
            """{"n":1,"d":1.50,"b":true,"z":null,"t":"\t\"\\é","l":[1,2],"o":{"a":"x"},"ts":"2026-03-02T01:02:03.5Z","day":"2026-03-02","f":0.1}""" + "\n");

    [Fact]
    public void An_order_is_kept_over_many_blocks()
    {
        var lines = _fixture.Write("select i from range(100000) r(i) order by i desc -- the last first").Split("\r\n");
        lines[1].ShouldBe("99999");
        lines[100_000].ShouldBe("0");
    }

    [Fact]
    public void A_number_that_JSON_has_not_is_an_error_and_the_last_good_file_stays()
    {
        _fixture.Write("select 1 as n", "out.jsonl");
        Refused("select 1 as n union all select 'nan'::double", "out.jsonl").What.ShouldContain("column 'n' has nan");
        File.ReadAllText(Path.Combine(_fixture.Folder, "out.jsonl")).ShouldBe("{\"n\":1}\n");
        Directory.GetFiles(_fixture.Folder, "*.part").ShouldBeEmpty();
        Directory.GetFiles(_fixture.Folder, ".*").ShouldBeEmpty();
    }

    [Fact]
    public async Task A_mistake_in_SQL_is_told_with_its_place_and_the_columns_there_are()
    {
        await _fixture.StageAsync("t", ["""{"reference":1}"""]);
        var refusal = Refused("select\n  referense from t");
        refusal.Outcome.ShouldBe(Outcome.ReportFailed);
        refusal.What.ShouldBe("job:11:9: the SQL of report 'r' failed: Referenced column \"referense\" not found in FROM clause! Candidate bindings: \"reference\"");
        refusal.Cause.ShouldBe("t has reference");
    }

    [Theory]
    [InlineData("select * from read_csv('/etc/passwd')")]
    [InlineData("select * from read_text('/etc/passwd')")]
    [InlineData("select * from glob('/etc/*')")]
    [InlineData("select * from '/etc/passwd'")]
    public void SQL_reads_no_files(string sql)
    {
        _fixture.Database.Confine();
        Refused(sql).What.ShouldNotContain("root:");
    }

    [Theory]
    [InlineData("copy (select 1) to '/tmp/cursiva-should-not-be'")]
    [InlineData("attach '/tmp/cursiva-should-not-be.db'")]
    [InlineData("install httpfs")]
    [InlineData("set memory_limit = '1TB'")]
    [InlineData("select 1; select 2")]
    [InlineData("drop view t")]
    [InlineData("call pragma_version()")]
    [InlineData("  ")]
    public void Only_one_SELECT_is_accepted(string sql) => Should.Throw<SqlException>(() => SqlText.Read(_fixture.Database, sql));

    [Fact]
    public void The_tables_of_a_query_are_known_but_for_its_own() =>
        SqlText.Read(_fixture.Database, "with own as (select * from Depots) select * from own join (select 1 from scans) s on true, depots d where exists (select 1 from carriers)")
            .Tables.Select(table => table.Name).ShouldBe(["Depots", "scans", "carriers"], ignoreOrder: true);

    private Refusal Refused(string sql, string file = "out.csv") => Should.Throw<ReportException>(() => _fixture.Write(sql, file)).Refusal;
}
