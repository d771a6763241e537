using Cursiva.Core.Checks;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Checks;

public sealed class JobCheckTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void A_column_that_no_pull_declares_is_told_with_its_place_and_the_columns_that_there_are()
    {
        var mistake = Check("select refrence from consignments").ShouldHaveSingleItem();
        mistake.Found.ShouldContain("refrence");
        mistake.Right.ShouldBe("consignments has reference, price");
        (mistake.Place.Line, mistake.Place.Column).ShouldBe((14, 14));
    }

    [Theory]
    [InlineData("select reference, sum(price) as price from consignments group by all")]
    [InlineData("select anything from depots")]
    [InlineData("select c.refrence from consignments c join depots d on d.id = c.reference")]
    [InlineData("select n.reference, o.price from consignments n join before.consignments o using (reference)")]
    [InlineData("select pull, proven from pulls union all select pull, true from skips")]
    [InlineData("select total from totals, run")]
    public void SQL_over_columns_that_are_there_or_not_known_yet_is_not_refused(string sql) => Check(sql).ShouldBeEmpty();

    [Theory]
    [InlineData("select totl from totals", "totals has total")]
    [InlineData("select o.refrence from before.consignments o", "before.consignments has reference, price")]
    [InlineData("select prooven from pulls", "pulls has pull, strands, pages, rows, expected, ended, proven")]
    public void Columns_of_queries_of_the_last_run_and_of_the_run_itself_are_known(string sql, string right) =>
        Check(sql).ShouldHaveSingleItem().Right.ShouldBe(right);

    [Fact]
    public void SQL_is_checked_although_something_else_is_wrong()
    {
        var error = Should.Throw<JobMistakesException>(() => Read("select refrence from consignments", "zone: Nowhere/Atall"));
        error.Mistakes.ShouldHaveSingleItem().Found.ShouldContain("Nowhere/Atall");
        JobCheck.Check(error.Job.ShouldNotBeNull()).ShouldHaveSingleItem().Found.ShouldContain("refrence");
    }

    private IReadOnlyList<Mistake> Check(string sql) => JobCheck.Check(Read(sql));

    private Job Read(string sql, string more = "title: Weekly") => JobReader.Read(
        _folder.Write("job.cursiva.yaml", $$"""
            cursiva: 1
            {{more}}
            apis: { x: { base: https://x.example } }
            pulls:
              consignments: { get: /c, rows: /items, columns: { reference: text, price: decimal } }
              depots: { get: /d, rows: /items }
            views:
              totals: select sum(price) as total from consignments
            reports:
              r:
                title: R
                write: r.csv
                sql: |
                  {{sql}}
            """),
        new GivenInputs([], [], _ => null),
        DateTimeOffset.UnixEpoch);
}
