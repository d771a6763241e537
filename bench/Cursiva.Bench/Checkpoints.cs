using System.Diagnostics;
using Cursiva.Core.Files;
using Cursiva.Core.Landing;

/// <summary>Lands pages with and without commits on the way.</summary>
internal static class Checkpoints
{
    private const int Pages = 1000;
    private const int PageSize = 290_000;

    /// <summary>Lands the pages and commits them.</summary>
    /// <returns>Seconds until all are durable.</returns>
    public static async Task<double> LandAsync(string folder, bool everyGroup)
    {
        var page = new byte[PageSize];
        Array.Fill(page, (byte)'x');
        page[^1] = (byte)'\n';
        var start = Stopwatch.GetTimestamp();
        await using (var landing = new RunLanding(new Disk(), folder, everyGroup ? TimeProvider.System : new StoppedClock()))
        {
            var pull = landing.Open("p");
            for (var i = 0; i < Pages; i++)
            {
                pull.Append(StrandKey.Only, page, 1000, "next");

                // As a run does, which waits for the API between pages.
                await Task.Delay(1);
            }

            await landing.CommitAsync(CancellationToken.None);
        }

        return Stopwatch.GetElapsedTime(start).TotalSeconds;
    }

    private sealed class StoppedClock : TimeProvider
    {
        public override ITimer CreateTimer(TimerCallback callback, object? state, TimeSpan dueTime, TimeSpan period) =>
            base.CreateTimer(callback, state, Timeout.InfiniteTimeSpan, Timeout.InfiniteTimeSpan);
    }
}
