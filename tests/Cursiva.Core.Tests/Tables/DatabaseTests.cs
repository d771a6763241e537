using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Tables;

/// <summary>The SQL engine does what it is for, on as many threads as may be, and nothing else.</summary>
public sealed class DatabaseTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("cursiva-").FullName;
    private readonly Database _database;

    public DatabaseTests() => _database = new Database(_folder, 256 * 1024 * 1024);

    public void Dispose()
    {
        _database.Dispose();
        Directory.Delete(_folder, recursive: true);
    }

    [Theory]
    [InlineData("select n, n * 2 as twice from t where n > 5", true)]
    [InlineData("select upper(v) from (select * from t)", true)]
    [InlineData("select * from t order by n % 7", false)]
    [InlineData("select n % 7, sum(f) from t group by 1", false)]
    [InlineData("select * from t limit 3", false)]
    [InlineData("select * from t where n in (select max(n) from t group by v)", false)]
    [InlineData("select * from t union all select * from t", false)]
    [InlineData("select row_number() over () from t", false)]
    public void Only_rows_that_pass_as_they_stand_are_left_to_several_threads(string sql, bool passes)
    {
        Fill();
        QueryPlan.PassesRows(_database, sql).ShouldBe(passes);
    }

    [Theory]
    [InlineData("select * from t")]
    [InlineData("select n, v || 'é' as v from t where n % 3 > 0")]
    [InlineData("select n % 7 as k, sum(f) as f from t group by 1")]
    public void A_file_is_byte_for_byte_what_one_thread_writes(string sql)
    {
        Fill();
        var (one, copied) = (Path.Combine(_folder, "one"), Path.Combine(_folder, "copied"));
        _database.Execute($"copy ({sql}) to {Database.Literal(one)} (format parquet, row_group_size 61440)");
        _database.Copy(sql, copied, "format parquet, row_group_size 61440").ShouldBeGreaterThan(0);
        File.ReadAllBytes(copied).ShouldBe(File.ReadAllBytes(one));
        _database.All("select current_setting('threads')::varchar")[0][0].ShouldBe("1");
    }

    [Fact]
    public void Confined_it_changes_no_setting_of_those_that_matter_and_reads_no_other_file()
    {
        var allowed = Path.Combine(_folder, "allowed");
        _database.Confine(allowed);
        foreach (var sql in new[] { "set memory_limit = '1GB'", "set enable_external_access = true", "set allowed_configs = ['memory_limit']", "set lock_configuration = false", "select * from read_text('/etc/hostname')" })
            Should.Throw<SqlException>(() => _database.Execute(sql), sql);
        _database.Copy("select 1 as one", allowed, "format parquet").ShouldBe(1);
    }

    [Theory]
    [InlineData("select * from enable_profiling()", "enable_profiling")]
    [InlineData("select * from enable_logging()", "enable_logging")]
    [InlineData("select (select max(x) from query('select 1 as x'))", "query")]
    [InlineData("select * from t where n in (select 1 from system.main.disable_logging())", "disable_logging")]
    [InlineData("with a as (select * from duckdb_settings()) select * from a", "duckdb_settings")]
    [InlineData("select * from read_text('/etc/hostname')", "read_text")]
    [InlineData("select * from glob('*')", "glob")]
    [InlineData("select * from json_execute_serialized_sql('{}')", "json_execute_serialized_sql")]
    [InlineData("select write_log('x')", "write_log")]
    [InlineData("select setseed(0.5)", "setseed")]
    [InlineData("select sleep_ms(1000000)", "sleep_ms")]
    public void No_function_changes_settings_reads_the_machine_or_runs_other_SQL(string sql, string name) =>
        Should.Throw<SqlException>(() => SqlText.Read(_database, sql)).Message.ShouldContain(name);

    [Theory]
    [InlineData("select * from range(3) r, unnest([1, 2]) u, generate_series(1, 2)")]
    [InlineData("select json_extract(v, '$.a'), upper(v) from t, json_each(v)")]
    public void Functions_that_give_values_of_their_arguments_stay(string sql) => SqlText.Read(_database, sql).ShouldNotBeNull();

    [Fact]
    public void A_text_with_a_NUL_is_a_text() => _database.All($"select octet_length(({Database.Literal("a\0b'\0")})::blob)::varchar")[0][0].ShouldNotBeNull();

    [Fact]
    public void Blocks_can_be_read_again_and_not_to_their_end()
    {
        var open = 0;
        var name = _database.Publish(["n", "text"], () =>
        {
            open++;
            return new Numbers(5, () => open--);
        });
        _database.All($"select sum(n::int)::varchar, count(text)::varchar from {name}()")[0].ShouldBe([$"{Enumerable.Range(0, 5 * TextBlock.MostRows).Sum()}", "5120"]);
        _database.All($"select n, text from {name}() limit 2").ShouldBe([["0", "a text that is longer than twelve bytes: 0"], ["1", null]]);
        open.ShouldBe(0, "every reader is let go of");
    }

    [Fact]
    public void What_fails_while_blocks_are_read_is_told()
    {
        var name = _database.Publish(["n"], () => throw new InvalidOperationException("the rows are not there"));
        Should.Throw<SqlException>(() => _database.All($"select * from {name}()")).Message.ShouldContain("the rows are not there");
    }

    private void Fill() => _database.Execute("create table t as select n, 'text ' || n % 1000 as v, n / 3 as f from range(400000) as r(n)");
}
