using CsCheck;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

public sealed class SmallWordsTests
{
    [Theory]
    [InlineData("30s", 30)]
    [InlineData("10m", 600)]
    [InlineData("2h", 7200)]
    [InlineData("7d", 604_800)]
    [InlineData("1.5s", 1.5)]
    [InlineData("250ms", 0.25)]
    public void Durations_are_read(string text, double seconds) => Durations.TryParse(text).ShouldBe(TimeSpan.FromSeconds(seconds));

    [Theory]
    [InlineData("")]
    [InlineData("30")]
    [InlineData("s")]
    [InlineData("-3s")]
    [InlineData("3 s")]
    [InlineData("1e9d")]
    [InlineData("99999999999999d")]
    public void What_is_no_duration_is_refused(string text) => Durations.TryParse(text).ShouldBeNull();

    [Theory]
    [InlineData(0.0003, "0 s")]
    [InlineData(0.042, "0.042 s")]
    [InlineData(0.5, "0.5 s")]
    [InlineData(3.24, "3.2 s")]
    [InlineData(59.6, "1 min 00 s")]
    [InlineData(185, "3 min 05 s")]
    [InlineData(7800, "2 h 10 min")]
    [InlineData(864_000, "10 days")]
    public void Durations_are_told(double seconds, string text) => Durations.ForPeople(TimeSpan.FromSeconds(seconds)).ShouldBe(text);

    [Fact]
    public void Rates_are_read()
    {
        Rate.TryParse("100 per second").ShouldBe(new Rate(100, TimeSpan.FromSeconds(1)));
        Rate.TryParse("600 per 10m").ShouldBe(new Rate(600, TimeSpan.FromMinutes(10)));
        Rate.TryParse("0 per second").ShouldBeNull();
        Rate.TryParse("100/s").ShouldBeNull();
    }

    [Theory]
    [InlineData("/a~1b/m~0n/~01", new[] { "a/b", "m~n", "~1" })]
    [InlineData("", new string[0])]
    [InlineData("/", new[] { "" })]
    public void Pointers_follow_RFC_6901(string text, string[] segments) => JsonPointer.TryParse(text)!.Segments.ShouldBe(segments);

    [Theory]
    [InlineData("a")]
    [InlineData("/a~2")]
    [InlineData("/a~")]
    public void What_is_no_pointer_is_refused(string text) => JsonPointer.TryParse(text).ShouldBeNull();

    [Fact]
    public void A_pointer_to_a_field_leads_to_that_field() =>
        Gen.String.Sample(name => JsonPointer.TryParse(JsonPointer.ToField(name).Text)!.Segments.ShouldHaveSingleItem().ShouldBe(name));

    [Fact]
    public void Any_text_is_a_template_once_its_braces_are_doubled() =>
        Gen.String[Gen.Char["ab{} "], 0, 12].Sample(text => Template.TryParse(text.Replace("{", "{{").Replace("}", "}}"), out _)!.Fill(_ => null).ShouldBe(text));

    [Theory]
    [InlineData("2026-03-29T12:00:00Z", "1d", "none", "2026-03-28T13:00:00Z")] // the clocks went forward in between: the hour of the day stays
    [InlineData("2026-03-29T12:00:00Z", "24h", "none", "2026-03-28T13:00:00Z")]
    [InlineData("2026-03-29T12:00:00Z", "0s", "day", "2026-03-28T23:00:00Z")]
    [InlineData("2026-11-24T09:30:00Z", "90m", "none", "2026-11-24T08:00:00Z")]
    [InlineData("2026-11-24T09:30:00Z", "0s", "week", "2026-11-22T23:00:00Z")]
    [InlineData("2026-11-24T09:30:00Z", "0s", "month", "2026-10-31T23:00:00Z")]
    [InlineData("2026-11-24T09:30:40Z", "0s", "hour", "2026-11-24T09:00:00Z")]
    [InlineData("2026-11-24T09:30:40Z", "0s", "minute", "2026-11-24T09:30:00Z")]
    public void Relative_times_are_told_in_their_zone(string now, string ago, string floor, string expected)
    {
        var time = new RelativeTime(Durations.TryParse(ago)!.Value, Enum.Parse<TimeFloor>(floor, ignoreCase: true), TimeZoneInfo.FindSystemTimeZoneById("Europe/Oslo"));
        RelativeTime.Write(time.Resolve(DateTimeOffset.Parse(now))).ShouldBe(expected);
    }

    [Fact]
    public void The_nearest_name_is_found_and_a_far_one_is_not()
    {
        Nearest.To("pagging", ["paging", "rows", "get"]).ShouldBe("paging");
        Nearest.To("xyzzy", ["paging", "rows"]).ShouldBeNull();
        Nearest.Hint("xyzzy", ["rows", "get"], "keys").ShouldBe("the keys are get, rows");
    }
}
