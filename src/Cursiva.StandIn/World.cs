using System.Globalization;

namespace Cursiva.StandIn;

/// <summary>The days of the world, which pass when somebody asks for it: <c>POST /world/next-day</c>.</summary>
public sealed class World
{
    private int _day;

    /// <summary>Days since the first one.</summary>
    public int Day => Volatile.Read(ref _day);

    public void Map(IEndpointRouteBuilder routes) =>
        routes.MapPost("/world/next-day", () => Interlocked.Increment(ref _day).ToString(CultureInfo.InvariantCulture));
}
