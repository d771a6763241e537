using System.Collections.Concurrent;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.State;

namespace Cursiva.Core.Apis;

/// <summary>
/// What a request of one API needs before it leaves: a place among those at once, a token, and slots of the limits, the slots last, since
/// they
/// are counted from when they are taken. Bare origins have none of it but their own pauses.
/// </summary>
internal sealed class Passage(
    Api api, ApiAccess access, IState state, TimeProvider clock, IRequestWatch watch, Budget budget) : IAsyncDisposable
{
    private readonly Gate _gate = new(
        api.Limits.AtOnce is { } atOnce ? Math.Max(1, (int)(atOnce * api.Limits.Share)) : null, wideOpen: api.Limits.Kept.Count > 0);
    private readonly Limiter _limiter = new(
        state.Slots,
        ApiLimits.WindowsOf(api, access.Identity),
        api.Timeout,
        clock,
        watch,
        budget,
        api.LongestPause,
        ApiLimits.ClientOf(api, access.Identity));
    private readonly Pace _pace = new(clock);
    private readonly ConcurrentDictionary<string, Limiter> _bare = new(StringComparer.Ordinal);

    /// <summary>Waits until a request may leave.</summary>
    /// <param name="signedIn">Whether it goes to the API with credentials, or bare to another origin.</param>
    public async Task<Entrance> EnterAsync(Uri address, bool signedIn, CancellationToken cancel)
    {
        var place = await _gate.EnterAsync(cancel);
        var pace = IsPaced(signedIn) ? _pace : null;
        var isPaced = false;
        try
        {
            var limiter = LimiterOf(address, signedIn);
            if (pace is not null)
                await PacedAsync(pace, cancel);
            isPaced = pace is not null;
            while (true)
            {
                var token = access.Tokens is { } tokens && signedIn ? await tokens.GetAsync(cancel) : null;
                var slots = await limiter.TakeSlotsAsync(cancel);

                // The wait for slots may be longer than what was left of the token; to fetch another takes longer than slots last.
                if (token is null || access.Tokens!.IsGood(token))
                    return new Entrance(token, slots, limiter, _gate, place) { Left = clock.GetTimestamp(), Pace = pace };
                limiter.GiveBackUnused(slots);
            }
        }
        catch
        {
            if (isPaced)
                pace!.Over(taken: false, 0);
            _gate.Leave(place, null);
            throw;
        }
    }

    /// <summary>Holds back whatever goes where a request went.</summary>
    public Task PauseAsync(Uri address, bool signedIn, TimeSpan span, CancellationToken cancel) =>
        LimiterOf(address, signedIn).PauseAsync(span, cancel);

    /// <summary>Makes sure that a pause is worth waiting for.</summary>
    /// <exception cref="Refusals.RefusedException">It is longer than the job allows.</exception>
    public void CheckPause(TimeSpan pause) => _limiter.CheckPause(pause);

    public async ValueTask DisposeAsync()
    {
        await _limiter.DisposeAsync();
        foreach (var limiter in _bare.Values)
            await limiter.DisposeAsync();
    }

    // Where a limit is declared, nothing has to be found out.
    private bool IsPaced(bool signedIn) => signedIn && api.Limits.Kept.Count == 0;

    private async Task PacedAsync(Pace pace, CancellationToken cancel)
    {
        const string Reason = "the limit that the API seems to have";
        var start = clock.GetTimestamp();
        var waited = false;
        while (pace.Take() is var wait && wait > TimeSpan.Zero)
        {
            CheckPause(wait);
            budget.CheckWait(wait, Reason);
            if (wait > TimeSpan.FromSeconds(1))
                watch.Waiting(Reason, wait);
            waited = true;
            await Waits.DelayAsync(wait, clock, cancel);
        }

        if (waited)
            watch.Waited(clock.GetElapsedTime(start));
    }

    private Limiter LimiterOf(Uri address, bool signedIn) => signedIn ? _limiter : _bare.GetOrAdd(
        ApiAddress.OriginOf(address),
        origin => new Limiter(
            state.Slots, [], api.Timeout, clock, watch, budget, api.LongestPause, DeclarationKey.Of([origin, null, "pause"])));
}
