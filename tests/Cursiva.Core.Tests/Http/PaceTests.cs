using Cursiva.Core.Http;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Http;

/// <summary>A limit that nobody declares, found out from what is refused.</summary>
public sealed class PaceTests
{
    private static readonly TimeSpan s_tick = TimeSpan.FromMilliseconds(20);

    [Fact]
    public void Nothing_is_held_back_while_nothing_is_refused()
    {
        var pace = new Pace(new FakeTimeProvider());
        for (var request = 0; request < 1000; request++)
            pace.Take().ShouldBe(TimeSpan.Zero);
        pace.Believed.ShouldBeNull();
    }

    [Theory]
    [InlineData(20, 1)]
    [InlineData(10, 1)]
    [InlineData(30, 5)]
    [InlineData(100, 10)]
    [InlineData(60, 60)]
    public void The_window_is_found_and_few_requests_are_refused(int count, int seconds)
    {
        var clock = new FakeTimeProvider();
        var pace = new Pace(clock);
        var (taken, refused, ticks) = (new List<long>(), 0, 0);
        var inFlight = new List<long>();
        while (taken.Count < 300)
        {
            while (inFlight.Count < 8 && pace.Take() == TimeSpan.Zero)
                inFlight.Add(clock.GetTimestamp());
            clock.Advance(s_tick);
            ticks++;
            foreach (var left in inFlight)
            {
                // Counted in a sliding window, as it arrives.
                var isTaken = taken.Count(at => clock.GetElapsedTime(at) < TimeSpan.FromSeconds(seconds)) < count;
                if (isTaken)
                    taken.Add(clock.GetTimestamp());
                else
                    refused++;
                if (!isTaken)
                    pace.Refused(left);
                pace.Over(isTaken, left);
            }

            inFlight.Clear();
        }

        refused.ShouldBeLessThan(45);
        var ideal = TimeSpan.FromSeconds(seconds) * (300 / count - 1);
        (s_tick * ticks).ShouldBeLessThan(ideal * 2.5 + TimeSpan.FromSeconds(2 * seconds));
        pace.Believed!.Value.Length.TotalSeconds.ShouldBeInRange(seconds / 2.0, seconds * 2);
    }
}
