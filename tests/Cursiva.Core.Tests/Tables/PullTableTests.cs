using CsCheck;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Tables;

public abstract class PullTableTests : IDisposable
{
    private readonly ReportFixture _fixture;

    protected PullTableTests(bool streams) => _fixture = new ReportFixture { Streams = streams };

    public void Dispose()
    {
        _fixture.Dispose();
        GC.SuppressFinalize(this);
    }

    [Fact]
    public async Task Digits_text_and_nulls_come_out_as_they_came_in()
    {
        string[] rows =
        [
            """{"id":9007199254740993,"big":123456789012345678901234567890,"price":1.10,"long":0.123456789012345678901234567890123456789012,"tiny":1e-7,"code":"0012","empty":"","none":null,"flag":true,"zero":-0,"mixed":1,"list":[1.10,"a"]}""",
            """{"id":-9223372036854775808,"big":1,"price":20.00,"long":1,"tiny":5E+3,"code":"7","empty":"x","none":null,"flag":false,"zero":3,"mixed":"1","list":[]}""",
        ];
        var columns = await _fixture.StageAsync("t", rows);
        columns.Select(column => $"{column.Name} {column.SqlType}").ShouldBe(
        [
            "id BIGINT", "big DECIMAL(38,0)", "price DECIMAL(4,2)", "long JSON", "tiny JSON", "code VARCHAR", "empty VARCHAR", "none VARCHAR",
            "flag BOOLEAN", "zero JSON", "mixed JSON", "list JSON",
        ]);
        _fixture.Write("select * from t", "out.jsonl").ShouldBe(string.Join("\n", rows) + "\n");
        _fixture.Write("select id, big, price, long, tiny, code, empty, none, flag from t").ShouldBe(
            "id,big,price,long,tiny,code,empty,none,flag\r\n"
            + "9007199254740993,123456789012345678901234567890,1.10,0.123456789012345678901234567890123456789012,1e-7,0012,\"\",,true\r\n"
            + "-9223372036854775808,1,20.00,1,5E+3,7,x,,false\r\n");
    }

    [Fact]
    public async Task Any_text_and_number_comes_out_as_it_came_in()
    {
        var values = Gen.OneOf(
            Gen.String.Where(text => !text.Any(char.IsSurrogate)).Select(text => System.Text.Json.JsonSerializer.Serialize(text, Relaxed)),
            Gen.Long.Select(number => number.ToString()),
            Gen.Decimal.Select(number => number.ToString()));
        var rows = Enumerable.Range(0, 3000).Select(_ => $"{{\"t\":{System.Text.Json.JsonSerializer.Serialize(Random.Shared.Next().ToString("x") + "é\n\"", Relaxed)},\"v\":{values.Single()}}}").ToArray();
        await _fixture.StageAsync("t", [string.Join("\n", rows[..2000]), string.Join("\n", rows[2000..])]);
        _fixture.Write("select * from t", "out.jsonl").Split('\n', StringSplitOptions.RemoveEmptyEntries).ShouldBe(rows);
    }

    [Fact]
    public async Task Objects_become_columns_and_names_stay_apart()
    {
        var columns = await _fixture.StageAsync("t", ["""{"a":{"b":{"c":1},"d":2},"a_d":3,"A":4,"e":{}}""", """{"a":null,"a_d":5,"new":"x"}"""]);
        columns.Select(column => column.Name).ShouldBe(["a_b_c", "a_d", "a_d_2", "A", "e", "a_2", "new"]);
        _fixture.Write("select * from t", "out.jsonl").ShouldBe(
            "{\"a_b_c\":1,\"a_d\":2,\"a_d_2\":3,\"A\":4,\"e\":{},\"a_2\":null,\"new\":null}\n{\"a_b_c\":null,\"a_d\":null,\"a_d_2\":5,\"A\":null,\"e\":null,\"a_2\":null,\"new\":\"x\"}\n");
    }

    [Fact]
    public async Task A_name_twice_in_a_row_counts_last_and_is_counted()
    {
        await _fixture.StageAsync("t", ["""{"a":"first long enough to lie elsewhere","b":1,"a":"last"}""", """{"a":"x","a":null}"""]);
        _fixture.Write("select a from t").ShouldBe("a\r\nlast\r\n\r\n");
        _fixture.NamesTwice.ShouldBe(2);
    }

    [Fact]
    public async Task Names_are_the_same_however_they_are_escaped()
    {
        await _fixture.StageAsync("t", ["{\"caf\u00e9\":1}", "{\"caf\\u00e9\":2}"]);
        _fixture.Write("select sum(café) as s from t").ShouldBe("s\r\n3\r\n");
    }

    [Fact]
    public async Task Half_of_a_surrogate_pair_stands_as_its_escape_and_is_told()
    {
        await _fixture.StageAsync("t", ["{\"a\":\"x\"}", "{\"a\":\"\\ud83d\\ude00 \\\\ud800 \\ud83d|\\ude00\\ud83d\\n\"}"]);
        _fixture.Write("select a from t").ShouldBe("a\r\nx\r\n\"\ud83d\ude00 \\ud800 \\ud83d|\\ude00\\ud83d\n\"\r\n");
        _fixture.Notices.ShouldHaveSingleItem().ShouldContain("column 'a' of pull 't' has half of a surrogate pair in row 2");
    }

    [Fact]
    public async Task Half_of_a_surrogate_pair_is_an_error_with_its_column_and_row_where_the_job_says_so()
    {
        _fixture.RefusesOddText = true;
        (await Should.ThrowAsync<TableException>(() => _fixture.StageAsync("t", ["{\"a\":\"x\"}", "{\"a\":\"\\ud800\"}"]))).Message.ShouldContain("column 'a' has half of a surrogate pair in row 2");
    }

    [Theory]
    [InlineData("shortest", "9.5", "10.25", "100", "119.75")]
    [InlineData("shortest, below nothing", "-9.5", "0.25", "0", "-9.25")]
    [InlineData("with a point always", "9.5", "10.25", "100.0", "119.75")]
    [InlineData("with a point always, and zeros", "0.0", "0.05", "20.0", "20.05")]
    [InlineData("one scale", "9.50", "10.25", "100.00", "119.75")]
    public async Task Decimals_of_any_scale_can_be_summed_and_come_out_as_they_were_written(string _, string first, string second, string third, string sum)
    {
        await _fixture.StageAsync("t", [$"{{\"price\":{first}}}", $"{{\"price\":{second}}}", $"{{\"price\":{third}}}"]);
        _fixture.Write("select price from t").ShouldBe($"price\r\n{first}\r\n{second}\r\n{third}\r\n");
        _fixture.Write("select price from t", "out.jsonl").ShouldBe($"{{\"price\":{first}}}\n{{\"price\":{second}}}\n{{\"price\":{third}}}\n");
        _fixture.Write("select sum(price) as s from t").ShouldBe($"s\r\n{sum}\r\n");
        _fixture.Write("select max(price) as m from t where price < 1000").ShouldBe($"m\r\n{new[] { first, second, third }.MaxBy(decimal.Parse)}\r\n");
    }

    [Theory]
    [InlineData("9.50", "100")]
    [InlineData("9.50", "9.5")]
    [InlineData("1.5", "1e2")]
    [InlineData("1.5", "-0")]
    public async Task Decimals_that_no_decimal_gives_back_stay_as_they_were_written(string first, string second)
    {
        (await _fixture.StageAsync("t", [$"{{\"v\":{first}}}", $"{{\"v\":{second}}}"])).ShouldBe([new KnownColumn("v", "JSON")]);
        _fixture.Write("select v from t").ShouldBe($"v\r\n{first}\r\n{second}\r\n");
    }

    [Theory]
    [InlineData("9.5", "10.25", "100")]
    [InlineData("\"9.5\"", "\"10.25\"", "\"100\"")]
    [InlineData("\"9.5\"", "10.25", "\"00100\"")]
    public async Task A_column_declared_as_decimal_has_as_many_places_as_the_number_with_the_most(string first, string second, string third)
    {
        (await _fixture.StageAsync("t", [$"{{\"v\":{first}}}", $"{{\"v\":{second}}}", $"{{\"v\":{third}}}"], [ReportFixture.Of("v", ColumnType.Decimal)])).ShouldBe([new KnownColumn("v", "DECIMAL(5,2)")]);
        _fixture.Write("select v, sum(v) over () as s from t").ShouldBe("v,s\r\n9.50,119.75\r\n10.25,119.75\r\n100.00,119.75\r\n");
    }

    [Fact]
    public async Task A_time_without_an_offset_stays_text_and_is_told()
    {
        (await _fixture.StageAsync("t", ["""{"v":"2026-07-02T08:00:00Z"}""", """{"v":"2026-07-02T08:00:00"}"""], [ReportFixture.Of("v", ColumnType.Time)])).ShouldBe([new KnownColumn("v", "VARCHAR")]);
        _fixture.Write("select v from t").ShouldBe("v\r\n2026-07-02T08:00:00Z\r\n2026-07-02T08:00:00\r\n");
        _fixture.Notices.ShouldHaveSingleItem().ShouldContain("has a time without an offset ('2026-07-02T08:00:00' in row 2)");
    }

    [Fact]
    public async Task A_time_without_an_offset_is_read_by_the_clock_of_its_zone()
    {
        string[] rows = ["2026-07-02T08:00:00", "2026-01-02 08:00:00.5", "2026-07-02", "2026-07-02T08:00:00Z", "2026-07-02T08:00:00.123456-03", "2026-07-02T08:00:00+0530"];
        await _fixture.StageAsync("t", rows.Select(row => $"{{\"v\":\"{row}\"}}"), [ReportFixture.Of("v", ColumnType.Time) with { Zone = "Europe/Oslo" }]);
        _fixture.Write("select v from t").ShouldBe("v\r\n2026-07-02T06:00:00Z\r\n2026-01-02T07:00:00.5Z\r\n2026-07-01T22:00:00Z\r\n2026-07-02T08:00:00Z\r\n2026-07-02T11:00:00.123456Z\r\n2026-07-02T02:30:00Z\r\n");
        _fixture.Notices.ShouldBeEmpty();
    }

    [Fact]
    public async Task An_empty_object_stays_one()
    {
        await _fixture.StageAsync("t", ["""{"a":{},"b":{"c":1}}""", """{"a":{},"b":{}}"""]);
        _fixture.Write("select * from t", "out.jsonl").ShouldBe("{\"a\":{},\"b_c\":1,\"b\":null}\n{\"a\":{},\"b_c\":null,\"b\":{}}\n");
    }

    [Fact]
    public async Task Declared_columns_have_their_types_and_nothing_else_is_taken()
    {
        Column[] columns =
        [
            ReportFixture.Of("id", ColumnType.Integer), ReportFixture.Of("kg", ColumnType.Decimal), ReportFixture.Of("ok", ColumnType.Boolean), ReportFixture.Of("day", ColumnType.Date),
            ReportFixture.Of("at", ColumnType.Time), ReportFixture.Of("raw", ColumnType.Json), ReportFixture.Of("town", ColumnType.Text, "/to/town"), ReportFixture.Of("gone", ColumnType.Text),
        ];
        await _fixture.StageAsync("t", ["""{"other":{"x":[1]},"id":12,"kg":1.50,"ok":true,"day":"2026-03-02","at":"2026-03-02T01:00:00.25+01:00","raw":{"a":"b"},"to":{"town":"Low \"Ferry\"","zip":1}}"""], columns);
        _fixture.Write("select *, kg * 2 as twice, day + 1 as next from t", "out.jsonl").ShouldBe(
            """{"id":12,"kg":1.50,"ok":true,"day":"2026-03-02","at":"2026-03-02T00:00:00.25Z","raw":{"a":"b"},"town":"Low \"Ferry\"","gone":null,"twice":3.00,"next":"2026-03-03"}""" + "\n");
    }

    [Theory]
    [InlineData(ColumnType.Integer, "\"0012\"", "whole number")]
    [InlineData(ColumnType.Integer, "1.5", "whole number")]
    [InlineData(ColumnType.Integer, "99999999999999999999", "whole number")]
    [InlineData(ColumnType.Integer, "{\"x\":1}", "whole number")]
    [InlineData(ColumnType.Decimal, "1e2", "decimal number")]
    [InlineData(ColumnType.Decimal, "-0.0", "decimal number")]
    [InlineData(ColumnType.Decimal, "\"n/a\"", "decimal number")]
    [InlineData(ColumnType.Boolean, "1", "true or false")]
    [InlineData(ColumnType.Date, "\"2026-3-2\"", "a date")]
    [InlineData(ColumnType.Time, "\"yesterday\"", "a time")]
    [InlineData(ColumnType.Time, "\"2026-03-02T08:00:00.1234567Z\"", "at most six digits")]
    public async Task What_a_declared_type_would_change_is_an_error_with_column_and_row(ColumnType type, string value, string right)
    {
        var good = type switch { ColumnType.Integer => "1", ColumnType.Decimal => "1.25", ColumnType.Boolean => "true", ColumnType.Date => "\"2026-03-02\"", _ => "\"2026-03-02T00:00:00Z\"" };
        var error = await Should.ThrowAsync<TableException>(() => _fixture.StageAsync("t", [$"{{\"v\":{good}}}", "{\"v\":null}", $"{{\"v\":{value}}}"], [ReportFixture.Of("v", type)]));
        error.Message.ShouldContain("column 'v' of pull 't'");
        error.Message.ShouldContain("in row 3");
        error.Message.ShouldContain(right);
    }

    [Fact]
    public async Task Rows_without_any_field_may_come_first()
    {
        (await _fixture.StageAsync("t", ["{}", """{"a":1}"""])).ShouldBe([new KnownColumn("a", "BIGINT")]);
        _fixture.Write("select a from t").ShouldBe("a\r\n\r\n1\r\n");
    }

    [Fact]
    public async Task A_pull_without_rows_has_the_columns_declared_or_last_seen()
    {
        await _fixture.StageAsync("declared", [], [ReportFixture.Of("a", ColumnType.Text), ReportFixture.Of("b", ColumnType.Integer)]);
        _fixture.Write("select a, b + 1 as b from declared").ShouldBe("a,b\r\n");
        await _fixture.StageAsync("seen", [], lastSeen: [new KnownColumn("x", "BIGINT"), new KnownColumn("y", "JSON")]);
        _fixture.Write("select * from seen").ShouldBe("x,y\r\n");
        (await _fixture.StageAsync("unknown", [])).ShouldBeEmpty();
        _fixture.Write("select count(*) as n from unknown").ShouldBe("n\r\n0\r\n");
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task What_rows_carry_stands_first_and_never_hides_a_column_of_theirs(bool declared)
    {
        var pull = ReportFixture.Declared("t", declared ? [ReportFixture.Of("id", ColumnType.Integer), ReportFixture.Of("title", ColumnType.Text, "/name")] : null) with
        {
            Carry = [new("tenant", JsonPointer.TryParse("/id")!), new("name", JsonPointer.TryParse("/name")!)],
        };
        await _fixture.StageRunsAsync(pull, [("""{"tenant":"T1","name":"north"}""", """{"id":1,"name":"a"}"""), ("""{"tenant":"T2","name":null}""", """{"id":2,"name":"b"}""")]);
        _fixture.Write("select * from t").ShouldBe(declared ? "tenant,name,id,title\r\nT1,north,1,a\r\nT2,,2,b\r\n" : "tenant,name,id,name_2\r\nT1,north,1,a\r\nT2,,2,b\r\n");
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task Of_a_key_the_newest_row_of_all_runs_counts_unless_it_says_that_it_is_gone(bool declared)
    {
        var pull = ReportFixture.Declared("t", declared ? [ReportFixture.Of("v", ColumnType.Integer)] : null) with
        {
            Key = [JsonPointer.TryParse("/id")!],
            Incremental = new Incremental(JsonPointer.TryParse("/v")!, null, null),
            DeletedWhen = new DeletedRows(JsonPointer.TryParse("/state")!, "gone"),
        };
        await _fixture.StageRunsAsync(
            pull,
            [("{}", """{"id":"a","v":1,"state":"here"}"""), ("{}", """{"id":"b","v":2,"state":"here"}"""), ("{}", """{"id":"c","v":3,"state":"gone"}""")],
            [("{}", """{"id":"b","v":20,"state":"here"}"""), ("{}", """{"id":"a","v":10,"state":"gone"}"""), ("{}", """{"id":"c","v":30,"state":null}""")]);
        _fixture.Write("select v from t").ShouldBe("v\r\n20\r\n30\r\n");
        _fixture.Write("select * from t limit 0").ShouldBe(declared ? "v\r\n" : "id,v,state\r\n");
    }

    [Fact]
    public async Task A_key_of_several_places_belongs_to_what_its_rows_carry()
    {
        var pull = ReportFixture.Declared("t", null) with
        {
            Carry = [new("tenant", JsonPointer.TryParse("/id")!)],
            Key = [JsonPointer.TryParse("/a")!, JsonPointer.TryParse("/b/c")!],
            Incremental = new Incremental(JsonPointer.TryParse("/v")!, null, null),
        };
        await _fixture.StageRunsAsync(
            pull,
            [("""{"tenant":"T1"}""", """{"a":1,"b":{"c":1},"v":1}"""), ("""{"tenant":"T2"}""", """{"a":1,"b":{"c":1},"v":2}""")],
            [("""{"tenant":"T1"}""", """{"a":1,"b":{"c":2},"v":3}"""), ("""{"tenant":"T2"}""", """{"a":1,"b":{"c":1},"v":4}""")]);
        _fixture.Write("select tenant, v from t").ShouldBe("tenant,v\r\nT1,1\r\nT1,3\r\nT2,4\r\n");
    }

    private static System.Text.Json.JsonSerializerOptions Relaxed { get; } = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
}
