using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Tables;

/// <summary>A table that is made of several pieces of the landing side by side, staged or not, is the one that a single reader would make.</summary>
public sealed class LandedBlocksTests : IDisposable
{
    // Pieces are cut at two mebibytes; a page of these is about one.
    private const int RowsOfPage = 1000;
    private const int Pages = 9;

    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task Kinds_that_differ_from_piece_to_piece_become_one_column_that_keeps_them(bool streams)
    {
        var columns = await StageAsync(streams, row => (row / RowsOfPage) switch { 0 => "null", < 5 => $"\"t{row}\"", _ => $"{row}" });
        columns.ShouldContain(new KnownColumn("v", "JSON"));
        _fixture.Write("select v from t where n in (0, 1500, 7500) order by n").ShouldBe("v\r\n\r\n\"\"\"t1500\"\"\"\r\n7500\r\n");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task Digits_of_every_piece_count_for_the_type(bool streams)
    {
        (await StageAsync(streams, row => row / RowsOfPage < 6 ? $"{row}" : $"{row}000000000000000000")).ShouldContain(new KnownColumn("v", "DECIMAL(38,0)"));
        _fixture.Write("select v from t where n in (5999, 6000) order by n").ShouldBe("v\r\n5999\r\n6000000000000000000000\r\n");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_column_that_only_a_late_piece_has_is_found(bool streams)
    {
        (await StageAsync(streams, row => row == 8500 ? "{\"late\":true}" : "null")).ShouldContain(new KnownColumn("v_late", "BOOLEAN"));
        _fixture.Write("select n from t where v_late").ShouldBe("n\r\n8500\r\n");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task The_rows_are_in_their_order_and_those_with_a_name_twice_are_counted_in_all_pieces(bool streams)
    {
        await StageAsync(streams, row => row % 4500 == 4499 ? "1,\"v\":2" : "0");
        _fixture.NamesTwice.ShouldBe(2);
        _fixture.Write("select n from t").ShouldBe("n\r\n" + string.Concat(Enumerable.Range(0, Pages * RowsOfPage).Select(n => $"{n}\r\n")));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_text_that_cannot_be_kept_is_told_with_its_row_whatever_piece_it_is_in(bool streams)
    {
        await StageAsync(streams, row => row is 8500 or 8600 ? "\"\\ud800\"" : "\"x\"");
        _fixture.Notices.ShouldHaveSingleItem().ShouldContain("in row 8501");
        _fixture.RefusesOddText = true;
        (await Should.ThrowAsync<TableException>(() => StageAsync(streams, row => row == 8500 ? "\"\\ud800\"" : "\"x\"", "other"))).Message.ShouldContain("in row 8501");
    }

    private Task<IReadOnlyList<KnownColumn>> StageAsync(bool streams, Func<int, string> value, string pull = "t")
    {
        _fixture.Streams = streams;
        return _fixture.StageAsync(
            pull,
            Enumerable.Range(0, Pages).Select(page => string.Join('\n', Enumerable.Range(page * RowsOfPage, RowsOfPage).Select(row => $"{{\"n\":{row},\"pad\":\"{new string('p', 1000)}\",\"v\":{value(row)}}}"))));
    }
}
