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
        columns.Select(column => column.Name).ShouldBe(["a_b_c", "a_d", "a_d_2", "A", "a_2", "new"]);
        _fixture.Write("select * from t", "out.jsonl").ShouldBe(
            "{\"a_b_c\":1,\"a_d\":2,\"a_d_2\":3,\"A\":4,\"a_2\":null,\"new\":null}\n{\"a_b_c\":null,\"a_d\":null,\"a_d_2\":5,\"A\":null,\"a_2\":null,\"new\":\"x\"}\n");
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
    public async Task Half_of_a_surrogate_pair_is_an_error_with_its_column_and_row() =>
        (await Should.ThrowAsync<TableException>(() => _fixture.StageAsync("t", ["{\"a\":\"x\"}", "{\"a\":\"\\ud800\"}"]))).Message.ShouldContain("column 'a' has half of a surrogate pair in row 2");

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
    [InlineData(ColumnType.Decimal, "1.5", "as many places as the others")]
    [InlineData(ColumnType.Decimal, "\"n/a\"", "decimal number")]
    [InlineData(ColumnType.Boolean, "1", "true or false")]
    [InlineData(ColumnType.Date, "\"2026-3-2\"", "a date")]
    [InlineData(ColumnType.Time, "\"yesterday\"", "a time")]
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
