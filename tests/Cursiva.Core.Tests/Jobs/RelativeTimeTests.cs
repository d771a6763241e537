using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>Relative times on the days on which clocks change.</summary>
public sealed class RelativeTimeTests
{
    [Theory]
    [InlineData("Europe/Oslo", "2026-10-25T00:30:00Z", "Hour", "2026-10-25T00:00:00Z")]
    [InlineData("Europe/Oslo", "2026-10-25T01:30:30Z", "Hour", "2026-10-25T01:00:00Z")]
    [InlineData("Europe/Oslo", "2026-10-25T00:30:30Z", "Minute", "2026-10-25T00:30:00Z")]
    [InlineData("Europe/Oslo", "2026-10-25T01:30:30Z", "Minute", "2026-10-25T01:30:00Z")]
    [InlineData("Europe/Oslo", "2026-10-25T12:00:00Z", "Day", "2026-10-24T22:00:00Z")]
    [InlineData("Europe/Oslo", "2026-03-29T12:00:00Z", "Day", "2026-03-28T23:00:00Z")]
    [InlineData("Asia/Kolkata", "2026-03-29T12:10:00Z", "Hour", "2026-03-29T11:30:00Z")]
    [InlineData("America/Santiago", "2026-09-06T12:00:00Z", "Day", "2026-09-06T04:00:00Z")]
    [InlineData("America/Havana", "2026-11-01T05:30:00Z", "Day", "2026-11-01T04:00:00Z")]
    [InlineData("America/Havana", "2026-11-01T04:30:00Z", "Day", "2026-11-01T04:00:00Z")]
    [InlineData("America/Havana", "2026-03-08T12:00:00Z", "Day", "2026-03-08T05:00:00Z")]
    [InlineData("America/Havana", "2026-03-10T12:00:00Z", "Week", "2026-03-09T04:00:00Z")]
    [InlineData("America/Havana", "2026-03-31T12:00:00Z", "Month", "2026-03-01T05:00:00Z")]
    public void A_time_is_rounded_down_by_the_clock_on_the_wall(string zone, string now, string floor, string time) =>
        new RelativeTime(TimeSpan.Zero, Enum.Parse<TimeFloor>(floor), TimeZoneInfo.FindSystemTimeZoneById(zone)).Resolve(DateTimeOffset.Parse(now)).ShouldBe(DateTimeOffset.Parse(time));

    [Fact]
    public void No_beginning_is_in_the_future_and_none_leaves_anything_out()
    {
        foreach (var zone in new[] { "Europe/Oslo", "America/Havana", "America/Santiago", "Australia/Lord_Howe", "Asia/Kathmandu", "Africa/Cairo", "UTC" }.Select(TimeZoneInfo.FindSystemTimeZoneById))
        {
            foreach (var floor in Enum.GetValues<TimeFloor>().Where(floor => floor != TimeFloor.None))
            {
                var before = DateTimeOffset.MinValue;
                for (var now = new DateTimeOffset(2026, 1, 1, 0, 7, 11, TimeSpan.Zero); now.Year < 2027; now += TimeSpan.FromMinutes(13))
                {
                    var time = new RelativeTime(TimeSpan.Zero, floor, zone).Resolve(now);
                    time.ShouldBeLessThanOrEqualTo(now, $"{zone.Id} {floor} {now}");
                    time.ShouldBeGreaterThanOrEqualTo(before, $"{zone.Id} {floor} {now}");
                    if (floor is TimeFloor.Minute or TimeFloor.Hour)
                        (now - time).ShouldBeLessThan(floor == TimeFloor.Hour ? TimeSpan.FromHours(1) : TimeSpan.FromMinutes(1), $"{zone.Id} {floor} {now}");
                    before = time;
                }
            }
        }
    }

    [Theory]
    [InlineData("1d", "2026-10-26T07:00:00Z", "2026-10-25T07:00:00Z")]
    [InlineData("1d", "2026-10-25T07:00:00Z", "2026-10-24T06:00:00Z")]
    [InlineData("1h", "2026-10-25T01:30:00Z", "2026-10-25T00:30:00Z")]
    public void Days_ago_keep_the_hour_and_hours_ago_are_hours(string ago, string now, string time) =>
        new RelativeTime(Durations.TryParse(ago)!.Value, TimeFloor.None, TimeZoneInfo.FindSystemTimeZoneById("Europe/Oslo")).Resolve(DateTimeOffset.Parse(now)).ShouldBe(DateTimeOffset.Parse(time));
}
