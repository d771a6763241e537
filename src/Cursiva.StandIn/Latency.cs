using System.Globalization;

namespace Cursiva.StandIn;

/// <summary>The time on the way, which can be changed while the stand-in runs.</summary>
public sealed class Latency(TimeSpan first)
{
    private long _ticks = first.Ticks;

    /// <summary>The time that a request takes from now on.</summary>
    public TimeSpan Now => TimeSpan.FromTicks(Interlocked.Read(ref _ticks));

    /// <summary>Changes it: <c>PUT /latency/{milliseconds}</c>.</summary>
    public Task SetAsync(HttpContext context)
    {
        var milliseconds = int.Parse(context.Request.RouteValues["milliseconds"]!.ToString()!, CultureInfo.InvariantCulture);
        Interlocked.Exchange(ref _ticks, TimeSpan.FromMilliseconds(milliseconds).Ticks);
        return Task.CompletedTask;
    }
}
