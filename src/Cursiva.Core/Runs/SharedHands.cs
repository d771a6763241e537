using System.Collections.Concurrent;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// Offers the strands of a run to all machines that work on it, and takes over what they landed. It fetches nothing itself: the workers of
/// every machine do, this one's included.
/// </summary>
/// <param name="name">Names the landing of the run.</param>
/// <param name="warn">Is told what the machines would have people know.</param>
/// <param name="counted">Is told of requests of other machines.</param>
internal sealed class SharedHands(
    IState state, string name, TimeProvider clock, Action<string> warn, Action<long> counted) : IStrandHands, IAsyncDisposable
{
    private const int MostOut = 256;
    private const int MostOffered = 500;

    private static readonly TimeSpan s_look = TimeSpan.FromMilliseconds(50);

    private readonly IStrandQueue _queue = state.Queue;
    private readonly ConcurrentDictionary<(string Pull, string Strand), Outstanding> _out = new();
    private readonly ConcurrentQueue<(StoredStrand Strand, bool IsAnew)> _offers = new();
    private readonly CancellationTokenSource _ended = new();
    private Task _work = Task.CompletedTask;

    /// <inheritdoc/>
    public int AtATime => MostOut;

    /// <summary>Begins. What an earlier machine offered is withdrawn: the job may have changed since.</summary>
    public async Task BeginAsync(CancellationToken cancel)
    {
        await _queue.ClearAsync(name, cancel);
        _work = Task.Run(() => WorkAsync(_ended.Token), CancellationToken.None);
    }

    /// <inheritdoc/>
    public bool Take(Pull pull) => Takes(pull);

    /// <summary>Whether the strands of a pull can be fetched on any machine.</summary>
    public static bool Takes(Pull pull) => pull.Repeats && pull.DownloadTo is null;

    /// <inheritdoc/>
    public async Task<LandedSkip?> FetchAsync(PullContext context, Strand strand, CancellationToken cancel)
    {
        var place = (context.Pull.Name, strand.Key);
        var outstanding = new Outstanding(context, strand);
        _out[place] = outstanding;
        var offered = strand.Landed(context.Pull.Name);
        _offers.Enqueue((new StoredStrand(offered.Pull, offered.Strand, offered.Values, offered.Carried, offered.Way, null, null, null, null), context.WasRestarted(strand)));
        var ended = await Task.WhenAny(outstanding.Ended.Task, _work).WaitAsync(cancel);
        if (ended == _work)
            await _work;
        return await outstanding.Ended.Task.WaitAsync(cancel);
    }

    /// <inheritdoc/>
    public async Task WithdrawAsync(string pull, string strand, IReadOnlyList<string> below, CancellationToken cancel)
    {
        await _queue.WithdrawAsync(name, pull, strand, strand + "\u0001", cancel);
        var dropped = new DroppedPages(pull, strand, 0, below);
        foreach (var child in below)
            await _queue.WithdrawAsync(name, child, dropped.FirstBelow, dropped.FirstAfter, cancel);
        _out.Clear();
        _offers.Clear();
    }

    public async ValueTask DisposeAsync()
    {
        await _ended.CancelAsync();
        await _work.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        _ended.Dispose();
    }

    private async Task WorkAsync(CancellationToken cancel)
    {
        while (true)
        {
            var offers = new List<(StoredStrand, bool)>();
            while (offers.Count < MostOffered && _offers.TryDequeue(out var offer))
                offers.Add(offer);
            if (offers.Count > 0)
                await _queue.OfferAsync(name, offers, cancel);
            var finished = await _queue.FinishedAsync(name, cancel);
            if (finished.Count > 0)
                await TakeOverAsync(finished, cancel);
            else
                await Task.Delay(s_look, clock, cancel);
        }
    }

    private async Task TakeOverAsync(IReadOnlyList<FinishedStrand> finished, CancellationToken cancel)
    {
        List<(FinishedStrand Strand, Outstanding Out)> known =
        [
            .. finished.Select(strand => (strand, _out.GetValueOrDefault((strand.Pull, strand.Strand))!)).Where(pair => pair.Item2 is not null),
        ];
        foreach (var pull in known.GroupBy(pair => pair.Strand.Pull))
            await ImportAsync(pull.Key, pull.ToDictionary(pair => pair.Strand.Strand, pair => pair.Out, StringComparer.Ordinal), cancel);
        await _queue.AcceptAsync(name, finished, cancel);
        foreach (var (strand, outstanding) in known)
        {
            _out.TryRemove((strand.Pull, strand.Strand), out _);
            Tell(JsonSerializer.Deserialize(strand.Result, RunRecordJson.Default.StrandResult)!, outstanding);
        }
    }

    private async Task ImportAsync(string pull, Dictionary<string, Outstanding> strands, CancellationToken cancel)
    {
        var pages = new List<StoredPage>();
        await foreach (var page in state.Landings.PagesAsync(name, (pull, [.. strands.Keys]), cancel))
        {
            if (pages.Count > 0 && pages[0].Strand != page.Strand)
                Import(pages, strands[pages[0].Strand]);
            pages.Add(page with { Lines = Kept(page) });
        }

        if (pages.Count > 0)
            Import(pages, strands[pages[0].Strand]);
    }

    private static Func<ReadOnlyMemory<byte>> Kept(StoredPage page)
    {
        var lines = page.Lines();
        return () => lines;
    }

    private static void Import(List<StoredPage> pages, Outstanding outstanding)
    {
        var (context, strand) = (outstanding.Context, outstanding.Strand);
        var landed = context.Landing.Import(strand.Key, pages);
        foreach (var page in landed)
            context.Progress.Landed(page.Rows, page.Told);
        var whole = landed.LastOrDefault(page => !page.IsPiece)?.Page ?? -1;
        foreach (var page in landed.Where(page => page.Page <= whole))
            context.HandOn(strand, page);
        pages.Clear();
    }

    private void Tell(StrandResult result, Outstanding outstanding)
    {
        foreach (var warning in result.Warnings)
            warn(warning);
        counted(result.Requests);
        if (result.Refusal is { } refusal)
            outstanding.Ended.TrySetException(new RefusedException(refusal));
        else if (result.Restart is { } why)
            outstanding.Ended.TrySetException(new StrandRestart(outstanding.Context, outstanding.Strand, why));
        else
            outstanding.Ended.TrySetResult(result.Skip);
    }

    private sealed record Outstanding(PullContext Context, Strand Strand)
    {
        public TaskCompletionSource<LandedSkip?> Ended { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);
    }
}
