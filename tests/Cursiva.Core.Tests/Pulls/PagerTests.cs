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
        Next(Declared("next-link"), new PageScan(10, link, null, null, null, null), null).ShouldBe(next);

    [Fact]
    public void A_link_that_is_no_web_address_is_refused() =>
        Should.Throw<PageException>(() => Next(Declared("next-link"), new PageScan(1, "mailto:me@api.example", null, null, null, null), null));

    [Theory]
    [InlineData("page-number", 1, 10, 30L, null, "2 10")]
    [InlineData("offset", 0, 10, 30L, null, "10 10")]
    [InlineData("page-number", 1, 10, 10L, null, null)]
    [InlineData("page-number", 0, 10, null, 1L, null)]
    [InlineData("page-number", 0, 10, null, 2L, "1 10")]
    [InlineData("offset", 1, 0, null, null, null)]
    public void Counting_goes_on_by_pages_or_rows_and_ends_where_the_page_says(string style, int first, int rows, long? total, long? pages, string? next)
    {
        var paging = Declared(style) with { First = first };
        Next(paging, new PageScan(rows, null, total, pages, null, null), Of(paging).First).ShouldBe(next);
    }

    [Theory]
    [InlineData(10, 5, null)]
    [InlineData(10, 10, "10 10")]
    [InlineData(null, 5, "5 5")]
    public void A_short_page_is_the_last_one_where_the_full_size_is_known(int? size, int rows, string? next)
    {
        var paging = Declared("offset") with { PageSize = size };
        Next(paging, new PageScan(rows, null, null, null, null, null), Of(paging).First).ShouldBe(next);
    }

    [Fact]
    public void The_places_ahead_are_those_that_following_one_by_one_would_come_to()
    {
        foreach (var style in new[] { "page-number", "offset" })
        {
            var paging = Declared(style) with { First = 1, Total = JsonPointer.TryParse("/total") };
            var pager = Of(paging);
            var one = new List<string>();
            for (var at = Next(paging, new PageScan(10, null, 47, null, null, null), pager.First); at is not null; at = Next(paging, new PageScan(one.Count == 4 ? 7 : 10, null, 47, null, null, null), at))
                one.Add(at);
            pager.Ahead(Facts(new PageScan(10, null, 47, null, null, null), null, 0), pager.First!)!.ShouldBe(one);
            one.Count.ShouldBe(4);
        }
    }

    [Fact]
    public void A_listing_that_says_that_nothing_follows_has_ended_whatever_else_it_says()
    {
        foreach (var style in new[] { "cursor", "next-link", "keyset" })
            Next(Declared(style), new PageScan(10, "/more", null, null, false, null), null, "7").ShouldBeNull();
        Next(Declared("keyset"), new PageScan(10, null, null, null, true, null), null, "7").ShouldBe("7");
    }

    [Theory]
    [InlineData("no paging", 10, null, false, "one-page")]
    [InlineData("next-link", 10, null, true, "no-next")]
    [InlineData("next-link", 10, null, false, "one-page")]
    [InlineData("cursor", 10, "c", true, null)]
    [InlineData("keyset", 0, null, false, "empty-page")]
    public void A_listing_ends_for_a_reason(string style, int rows, string? next, bool hasPlace, string? ended) =>
        Of(Declared(style)).Next(Facts(new PageScan(rows, next, null, null, null, null) { HasNext = hasPlace }, "7", 0), null).Ended?.Code.ShouldBe(ended);

    [Fact]
    public void A_place_that_earlier_pages_had_and_this_one_lacks_is_the_end() =>
        Of(Declared("next-link")).Next(Facts(new PageScan(10, null, null, null, null, null), null, 10), null).Ended.ShouldBe(Ending.NoNext);

    [Theory]
    [InlineData(250, 0, null, "250 250")]
    [InlineData(250, 250, null, "250 500")]
    [InlineData(250, 100, null, null)]
    public void The_size_of_a_page_is_what_the_server_gives(int largest, int rows, long? total, string? next)
    {
        // 500 were asked for, and never more than 250 come.
        var first = largest == 250 && rows == 0;
        var pager = Of(Declared("offset") with { PageSize = 500 });
        var way = pager.Next(first ? Facts(new PageScan(250, null, total, null, null, null), null, 0) : Facts(new PageScan(rows, null, total, null, null, null), null, 250, largest), first ? pager.First : "250 250");
        way.Next.ShouldBe(first ? next : next?.Replace("250 500", "500 500"));
        if (next is null)
            way.Ended.ShouldBe(Ending.ShortPage);
    }

    [Fact]
    public void A_page_in_the_middle_has_rows_and_more_leads_on()
    {
        Should.Throw<PageException>(() => Of(Declared("page-number") with { First = 1 }).Next(Facts(new PageScan(0, null, 50, null, null, null), null, 20), "3 20")).MayPass.ShouldBeTrue();
        Should.Throw<PageException>(() => Of(Declared("page-number") with { First = 1 }).Next(Facts(new PageScan(0, null, null, 5, null, null), null, 20), "3 20")).MayPass.ShouldBeTrue();
        Should.Throw<PageException>(() => Of(Declared("cursor") with { More = JsonPointer.TryParse("/more") }).Next(Facts(new PageScan(10, null, null, null, true, null), null, 0), null)).Message.ShouldContain("nothing leads to it");
    }

    [Theory]
    [InlineData("""{"items":[{"next":"inside"}],"next":"/x?p=2","count":60}""", "/next", "/count is 60")]
    [InlineData("""{"items":[],"meta":{"cursor":"abc","page":1}}""", "/meta/cursor", null)]
    [InlineData("""{"items":[],"has_more":true}""", "/has_more", null)]
    [InlineData("""{"items":[],"pageInfo":{"hasNextPage":true,"endCursor":"x"}}""", "/pageInfo/hasNextPage", null)]
    [InlineData("""{"items":[],"next":null,"has_more":false,"cursor":"","total":0}""", null, null)]
    public void Signs_of_another_page_are_seen(string page, string? hint, string? total)
    {
        using var message = new HttpResponseMessage(HttpStatusCode.OK);
        using var answer = new Answer(200, message.Headers, null, PageBuffer.Of(System.Text.Encoding.UTF8.GetBytes(page)), TimeSpan.Zero);
        var signs = PageSigns.Of(answer, JsonPointer.TryParse("/items")!);
        if (hint is null)
            signs.Hints.ShouldBeEmpty();
        else
            signs.Hints.ShouldContain(hint);
        if (total is not null)
            signs.Totals.Select(pair => $"{pair.Key} is {pair.Value}").ShouldContain(total);
    }

    [Theory]
    [InlineData("</x?p=2>; rel=next", "/x?p=2")]
    [InlineData("</x?p=2>; rel=next; anchor=\"/other\"", null)]
    [InlineData("</x?p=2>; anchor=\"https://api.example/v2/list\"; rel=next", "/x?p=2")]
    [InlineData("</a>; rel=next; anchor=\"#part\", </b>; rel=next", "/a")]
    [InlineData("</a>; rel=next; anchor=\"https://elsewhere.example/\", </b>; rel=next", "/b")]
    public void A_Link_header_about_another_address_is_not_followed(string header, string? target) =>
        LinkHeader.Find(header, "next", new Uri("https://api.example/v2/list?size=5")).ShouldBe(target);

    private static Paging Declared(string style) => new(PagingStyles.All.Single(declared => declared.Keys.Count > 0 ? declared.ToString() == style : declared.HasOnePage && style == "no paging"));

    private static Pager Of(Paging paging) => (Pager)ListingStyle.Of(paging);

    private static string? Next(Paging paging, PageScan scan, string? position, string? lastKey = null) =>
        Of(paging).Next(Facts(scan, lastKey, position?.Split(' ') is [_, var rows] ? long.Parse(rows) : 0, 10), position).Next;

    private static PageFacts Facts(PageScan scan, string? lastKey, long before, int largest = 0)
    {
        using var message = new HttpResponseMessage(HttpStatusCode.OK);
        using var answer = new Answer(200, message.Headers, null, PageBuffer.Of([]), TimeSpan.Zero);
        return new PageFacts(answer, new Uri("https://api.example/v2/list"), scan, lastKey, before == 0, before, largest);
    }
}
