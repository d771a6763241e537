using System.Net;
using Cursiva.Core.Http;

namespace Cursiva.Core.Tests.Http;

public sealed class HeaderTests
{
    private static readonly DateTimeOffset s_now = new(2026, 3, 2, 8, 0, 0, TimeSpan.Zero);

    [Theory]
    [InlineData("<https://a.example/x?p=2>; rel=next", "https://a.example/x?p=2")]
    [InlineData("</x?a=1,2&b=3>; rel=\"next\"", "/x?a=1,2&b=3")]
    [InlineData("<1>; rel=first, <2>; rel=\"last next\", <3>; rel=next", "2")]
    [InlineData("<1>; title=\"a, b; rel=next\"; rel=prev, <2>; REL=NEXT", "2")]
    [InlineData("<1>; title=\"say \\\"rel=next\\\"\"; rel=first,<2>;rel=next;title=x", "2")]
    [InlineData("<1>; rel=prev; rel=next", null)]
    [InlineData("<1>; rel=nextish", null)]
    [InlineData("<1; rel=next", null)]
    [InlineData("", null)]
    public void A_Link_header_is_read_as_RFC_8288_writes_it(string header, string? target) => LinkHeader.Find(header, "next").ShouldBe(target);

    [Theory]
    [InlineData("RateLimit", "\"default\";r=0;t=30", 30)]
    [InlineData("RateLimit", "\"burst\";r=5;t=1, \"day\";r=0;t=600", 600)]
    [InlineData("RateLimit", "limit=10, remaining=0, reset=7", 7)]
    [InlineData("RateLimit", "\"default\";r=3;t=30", null)]
    [InlineData("RateLimit", "nonsense", null)]
    [InlineData("RateLimit-Remaining", "0", null)]
    public void Rate_limit_fields_ask_for_a_pause_once_nothing_is_left(string name, string value, int? seconds)
    {
        using var message = new HttpResponseMessage(HttpStatusCode.OK);
        message.Headers.TryAddWithoutValidation(name, value);
        using var answer = new Answer(200, message.Headers, null, PageBuffer.Of([]), TimeSpan.Zero);
        RateLimitHeader.Read(answer, s_now).ShouldBe(seconds is { } pause ? TimeSpan.FromSeconds(pause) : null);
    }

    [Theory]
    [InlineData("12", 12)]
    [InlineData("1772438430", 30)]
    [InlineData("1772438000", null)]
    public void A_reset_is_a_number_of_seconds_or_a_moment(string reset, int? seconds)
    {
        using var message = new HttpResponseMessage(HttpStatusCode.OK);
        message.Headers.TryAddWithoutValidation("X-RateLimit-Remaining", "0");
        message.Headers.TryAddWithoutValidation("X-RateLimit-Reset", reset);
        using var answer = new Answer(200, message.Headers, null, PageBuffer.Of([]), TimeSpan.Zero);
        RateLimitHeader.Read(answer, s_now).ShouldBe(seconds is { } pause ? TimeSpan.FromSeconds(pause) : null);
    }
}
