using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Tables;

public sealed class ComparisonTablesTests : IDisposable
{
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Fact]
    public async Task Rows_are_added_removed_and_changed_by_their_key()
    {
        await CompareAsync(
            ["""{"id":1,"s":"late","n":1.10}""", """{"id":2,"s":"held","n":2.00}""", """{"id":3,"s":null,"n":3.00}""", """{"id":4,"s":"","n":4.00}"""],
            ["""{"id":2,"s":"late","n":2.00}""", """{"id":3,"s":"","n":3.00}""", """{"id":4,"s":"","n":4.00}""", """{"id":5,"s":"new","n":5.00}"""]);
        _fixture.Write("select * from added.t").ShouldBe("id,s,n\r\n5,new,5.00\r\n");
        _fixture.Write("select * from removed.t").ShouldBe("id,s,n\r\n1,late,1.10\r\n");
        _fixture.Write("select * from changed.t order by id").ShouldBe("id,column,before,now\r\n2,s,held,late\r\n3,s,,\"\"\r\n");
    }

    [Fact]
    public async Task What_changed_alone_in_an_ignored_column_has_not_changed()
    {
        await CompareAsync(["""{"id":1,"at":"a","s":"x"}"""], ["""{"id":1,"at":"b","s":"x"}"""], ignore: ["at"]);
        _fixture.Write("select * from changed.t").ShouldBe("id,column,before,now\r\n");
    }

    [Fact]
    public async Task Before_a_first_run_everything_is_new()
    {
        var now = await _fixture.StageAsync("t", ["""{"id":1}"""]);
        _fixture.Database.Execute("create schema before; create view before.t as select * from main.t where false");
        new ComparisonTables(_fixture.Database).Create(new Comparison("t", new Place("job"), ["id"], []), now, now);
        _fixture.Write("select (select count(*) from added.t) as a, (select count(*) from removed.t) as r, (select count(*) from changed.t) as c").ShouldBe("a,r,c\r\n1,0,0\r\n");
    }

    [Fact]
    public async Task A_key_that_does_not_tell_rows_apart_is_told() =>
        (await Should.ThrowAsync<TableException>(() => CompareAsync(["""{"id":1}"""], ["""{"id":7}""", """{"id":7}"""]))).Message.ShouldContain("is not unique in this run: 7 occurs 2 times");

    [Fact]
    public async Task A_column_that_is_not_there_is_told() =>
        (await Should.ThrowAsync<TableException>(() => CompareAsync(["""{"id":1}"""], ["""{"id":7}"""], key: "ref"))).Message.ShouldContain("names the column 'ref', but the table has id");

    [Fact]
    public void Columns_that_are_new_gone_or_of_another_type_are_told() =>
        ColumnDrift.Between(
            [new("a", "BIGINT"), new("b", "VARCHAR"), new("c", "DECIMAL(5,2)"), new("d", "BIGINT")],
            [new("A", "BIGINT"), new("c", "DECIMAL(9,3)"), new("d", "DECIMAL(38,0)"), new("e", "BOOLEAN"), new("b2", "JSON")])
            .ShouldBe(["e is new (boolean)", "b2 is new (json)", "b is gone"]);

    [Fact]
    public async Task A_column_without_a_value_keeps_the_type_it_had()
    {
        var known = await _fixture.StageAsync("t", ["""{"a":null,"b":1}"""], lastSeen: [new("a", "BIGINT")]);
        known.ShouldBe([new KnownColumn("a", "BIGINT"), new KnownColumn("b", "BIGINT")]);
    }

    private async Task CompareAsync(string[] before, string[] now, string[]? ignore = null, string key = "id")
    {
        var present = await _fixture.StageAsync("t", now);
        var previous = await _fixture.StageAsync("t", before, schema: "before");
        new ComparisonTables(_fixture.Database).Create(new Comparison("t", new Place("job"), [key], ignore ?? []), present, previous);
    }
}
