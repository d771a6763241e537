using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.State;

namespace Cursiva.Core.Apis;

/// <summary>What one request holds while it is on its way: see <see cref="Passage"/>.</summary>
/// <param name="Token">The token that it carries; null for none.</param>
internal sealed record Entrance(AccessToken? Token, IReadOnlyList<Slot> Slots, Limiter Limiter, Gate Gate, long Place)
{
    /// <summary>When the request left, in ticks of the clock.</summary>
    public long Left { get; init; }

    /// <summary>What learns from the answer; null where limits are declared.</summary>
    public Pace? Pace { get; init; }

    /// <summary>Gives back everything: the request has failed, or its answer is whole.</summary>
    /// <param name="pushedBack">Whether the API pushed back; null when it is not known.</param>
    /// <param name="status">The status of its answer; null without one.</param>
    public void Leave(bool? pushedBack, int? status)
    {
        if (status == 429)
            Pace?.Refused(Left);
        Pace?.Over(taken: status is not (null or 429), Left);
        Limiter.GiveBack(Slots);
        Gate.Leave(Place, pushedBack);
    }

    /// <summary>Gives back what is counted by time, and, once the answer is read or dropped, its place among those at once.</summary>
    public void LeaveWith(Answer answer)
    {
        Pace?.Over(taken: true, Left);
        Limiter.GiveBack(Slots.Where(slot => slot.Window.Window > TimeSpan.Zero));
        List<Slot> atOnce = [.. Slots.Where(slot => slot.Window.Window == TimeSpan.Zero)];
        var held = atOnce.Count > 0 ? Limiter.Hold(atOnce) : null;
        answer.WhenRead(() =>
        {
            held?.Dispose();
            Gate.Leave(Place, false);
        });
    }
}
