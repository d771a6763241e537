using System.IO.Compression;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Tests.Files;
using Cursiva.Core.Tests.Tables;
using ZstdSharp;

namespace Cursiva.Core.Tests.Reports;

/// <summary>All files of a report, or none; and what must hold before there is any.</summary>
public sealed class WholeReportTests : IDisposable
{
    private static readonly string[] s_every = ["r.csv", "r.jsonl", "r.json", "r.parquet", "r.sqlite", "r.xlsx", "r.md", "r.html", "r.fragment.html", "r.csv.gz", "r.html.zst"];
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Fact]
    public void The_same_rows_give_the_same_bytes_in_every_format()
    {
        const string sql = "select i as id, 'depot ' || (i % 7) as depot, i / 7.0 as x, timestamp '2026-03-02' + i * interval 1 hour as at from range(5000) r(i)";
        _fixture.WriteFiles([ReportFixture.Table(sql)], s_every);
        var first = s_every.ToDictionary(file => file, file => File.ReadAllBytes(_fixture[file]));
        _fixture.Written.Select(file => (Path.GetFileName(file.Path), file.Bytes)).ShouldBe(s_every.Select(file => (file, (long)first[file].Length)));
        _fixture.WriteFiles([ReportFixture.Table(sql)], s_every);
        foreach (var (file, bytes) in first)
            File.ReadAllBytes(_fixture[file]).AsSpan().SequenceEqual(bytes).ShouldBeTrue(file);
    }

    [Fact]
    public void Packed_files_hold_what_the_plain_ones_do()
    {
        _fixture.WriteFiles([ReportFixture.Table("select i from range(100000) r(i)")], ["r.csv", "r.csv.gz", "r.csv.zst"]);
        var plain = File.ReadAllBytes(_fixture["r.csv"]);
        Unpacked(new GZipStream(File.OpenRead(_fixture["r.csv.gz"]), CompressionMode.Decompress)).AsSpan().SequenceEqual(plain).ShouldBeTrue();
        Unpacked(new DecompressionStream(File.OpenRead(_fixture["r.csv.zst"]))).AsSpan().SequenceEqual(plain).ShouldBeTrue();
    }

    [Theory]
    [InlineData(0)]
    [InlineData(100)]
    [InlineData(20_000)]
    [InlineData(120_000)]
    public void A_full_disk_leaves_no_broken_file_and_the_last_good_ones(int room)
    {
        _fixture.WriteFiles([ReportFixture.Table("select 'good' as t")], s_every);
        var good = s_every.ToDictionary(file => file, file => File.ReadAllBytes(_fixture[file]));
        var refusal = Should.Throw<ReportException>(() => _fixture.WriteFiles([ReportFixture.Table("select i as id, md5(i::varchar) as t from range(20000) r(i)")], s_every, disk: new FullDisk(room))).Refusal;
        refusal.Outcome.ShouldBe(Outcome.ReportFailed);
        refusal.What.ShouldContain("No space left");
        refusal.NextStep!.ShouldContain("make room");
        foreach (var (file, bytes) in good)
            File.ReadAllBytes(_fixture[file]).AsSpan().SequenceEqual(bytes).ShouldBeTrue(file);
        Directory.GetFiles(_fixture.Folder, ".*").ShouldBeEmpty();
    }

    [Fact]
    public void One_file_for_each_value_of_a_column()
    {
        var totals = _fixture.WriteFiles([ReportFixture.Table("select * from (values ('Low Ferry', 1), ('a/b', 2), (null, 3), ('Low Ferry', 4)) t(depot, n) order by n")], ["{depot}-{run.date}.csv", "{depot}.parquet"], filePer: "depot");
        _fixture.Written.Where(file => file.Path.EndsWith(".csv", StringComparison.Ordinal)).Select(file => (Path.GetFileName(file.Path), file.Rows)).ShouldBe([("Low Ferry-2026-03-09.csv", 2L), ("a_b-2026-03-09.csv", 1), ("none-2026-03-09.csv", 1)], ignoreOrder: true);
        File.ReadAllText(_fixture["Low Ferry-2026-03-09.csv"]).ShouldBe("depot,n\r\nLow Ferry,1\r\nLow Ferry,4\r\n");
        File.ReadAllText(_fixture["none-2026-03-09.csv"]).ShouldBe("depot,n\r\n,3\r\n");
        File.Exists(_fixture["a_b.parquet"]).ShouldBeTrue();
    }

    [Fact]
    public void Values_that_would_have_one_file_name_are_an_error() =>
        Should.Throw<ReportException>(() => _fixture.WriteFiles([ReportFixture.Table("select * from (values ('a/b'), ('a:b')) t(d)")], ["{d}.csv"], filePer: "d")).Refusal.What.ShouldContain("the same file name, a_b");

    [Fact]
    public void Two_columns_of_one_name_are_an_error() =>
        Should.Throw<ReportException>(() => _fixture.Write("select 1 as a, 2 as A")).Refusal.What.ShouldContain("two columns are called 'a'");

    [Fact]
    public void Everything_that_does_not_hold_is_told_and_the_last_good_files_stay()
    {
        _fixture.Write("select 'good' as t");
        var require = new Requirements(new Place("job"), 5, 1, 0.2, ["depot"], ["id"], [("n", 0, 10)]);
        var refusal = Should.Throw<ReportException>(() => _fixture.WriteFiles(
            [ReportFixture.Table("select * from (values (1, null, 5), (1, 'x', 11), (2, 'y', -3)) t(id, depot, n)", require)],
            ["out.csv"],
            before: new ReportTotals([], new() { ["r/r"] = 10 }))).Refusal;
        refusal.Outcome.ShouldBe(Outcome.ReportFailed);
        refusal.What.ShouldContain("3 rows, at least 5 are required");
        refusal.What.ShouldContain("3 rows, at most 1 are allowed");
        refusal.What.ShouldContain("while the last good run had 10: a change of 70%, and 20% is allowed");
        refusal.What.ShouldContain("column 'depot' has no value in 1 of 3 rows");
        refusal.What.ShouldContain("id is not unique: 1 occurs 2 times");
        refusal.What.ShouldContain("column 'n' is outside 0 to 10 in 2 of 3 rows, from -3 to 11");
        File.ReadAllText(_fixture["out.csv"]).ShouldBe("t\r\ngood\r\n");
    }

    [Fact]
    public void What_holds_is_written()
    {
        var require = new Requirements(new Place("job"), 1, 3, 0.5, ["id"], ["id"], [("n", 0, 10)]);
        _fixture.WriteFiles([ReportFixture.Table("select * from (values (1, 0), (2, 10), (3, null)) t(id, n)", require)], ["out.csv"], before: new ReportTotals([], new() { ["r/r"] = 2 }));
        File.ReadAllLines(_fixture["out.csv"]).Length.ShouldBe(4);
    }

    [Fact]
    public void A_column_that_is_required_and_not_there_is_told() =>
        Should.Throw<ReportException>(() => _fixture.WriteFiles([ReportFixture.Table("select 1 as id", new Requirements(new Place("job"), null, null, null, ["depot"], [], []))], ["out.csv"]))
            .Refusal.What.ShouldContain("names the column 'depot', but the rows have id");

    private static byte[] Unpacked(Stream stream)
    {
        using (stream)
        using (var all = new MemoryStream())
        {
            stream.CopyTo(all);
            return all.ToArray();
        }
    }
}
