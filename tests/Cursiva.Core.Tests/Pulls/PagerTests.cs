using System.Net;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;

namespace Cursiva.Core.Tests.Pulls;

public sealed class PagerTests
{
    [Theory]
    [InlineData("/x?p=2", "https://api.example/x?p=2")]
    [InlineData("?p=2", "https://api.example/v2/list?p=2")]
    [InlineData("https://other.example/x", "https://other.example/x")]
    [InlineData(null, null)]
    [InlineData("", null)]
    public void A_link_is_resolved_against_the_page_that_has_it(string? link, string? next) =>
        Next(new Paging(PagingStyle.NextLink), new PageScan(10, link, null, null, null, null), null).ShouldBe(next);

    [Fact]
    public void A_link_that_is_no_web_address_is_refused() =>
        Should.Throw<PageException>(() => Next(new Paging(PagingStyle.NextLink), new PageScan(1, "mailto:me@api.example", null, null, null, null), null));

    [Theory]
    [InlineData(PagingStyle.PageNumber, 1, 10, 30L, null, "2 10")]
    [InlineData(PagingStyle.Offset, 0, 10, 30L, null, "10 10")]
    [InlineData(PagingStyle.PageNumber, 1, 10, 10L, null, null)]
    [InlineData(PagingStyle.PageNumber, 0, 10, null, 1L, null)]
    [InlineData(PagingStyle.PageNumber, 0, 10, null, 2L, "1 10")]
    [InlineData(PagingStyle.Offset, 1, 0, null, null, null)]
    public void Counting_goes_on_by_pages_or_rows_and_ends_where_the_page_says(PagingStyle style, int first, int rows, long? total, long? pages, string? next)
    {
        var paging = new Paging(style) { First = first };
        Next(paging, new PageScan(rows, null, total, pages, null, null), new Pager(paging).First).ShouldBe(next);
    }

    [Theory]
    [InlineData(10, 5, null)]
    [InlineData(10, 10, "10 10")]
    [InlineData(null, 5, "5 5")]
    public void A_short_page_is_the_last_one_where_the_full_size_is_known(int? size, int rows, string? next)
    {
        var paging = new Paging(PagingStyle.Offset) { PageSize = size };
        Next(paging, new PageScan(rows, null, null, null, null, null), new Pager(paging).First).ShouldBe(next);
    }

    [Fact]
    public void The_places_ahead_are_those_that_following_one_by_one_would_come_to()
    {
        foreach (var style in new[] { PagingStyle.PageNumber, PagingStyle.Offset })
        {
            var paging = new Paging(style) { First = 1, Total = JsonPointer.TryParse("/total") };
            var pager = new Pager(paging);
            var one = new List<string>();
            for (var at = Next(paging, new PageScan(10, null, 47, null, null, null), pager.First); at is not null; at = Next(paging, new PageScan(one.Count == 4 ? 7 : 10, null, 47, null, null, null), at))
                one.Add(at);
            pager.Ahead(new PageScan(10, null, 47, null, null, null), pager.First!)!.ShouldBe(one);
            one.Count.ShouldBe(4);
        }
    }

    [Fact]
    public void A_listing_that_says_that_nothing_follows_has_ended_whatever_else_it_says()
    {
        foreach (var style in new[] { PagingStyle.Cursor, PagingStyle.NextLink, PagingStyle.Keyset })
            Next(new Paging(style), new PageScan(10, "/more", null, null, false, null), null, "7").ShouldBeNull();
        Next(new Paging(PagingStyle.Keyset), new PageScan(10, null, null, null, true, null), null, "7").ShouldBe("7");
    }

    private static string? Next(Paging paging, PageScan scan, string? position, string? lastKey = null)
    {
        using var message = new HttpResponseMessage(HttpStatusCode.OK);
        using var answer = new Answer(200, message.Headers, null, PageBuffer.Of([]), TimeSpan.Zero);
        return new Pager(paging).Next(new PageFacts(answer, new Uri("https://api.example/v2/list"), scan, lastKey), position);
    }
}
