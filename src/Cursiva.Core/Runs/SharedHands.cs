using System.Collections.Concurrent;
using System.Text.Json;
using Cursiva.Core.Http;
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
internal sealed class SharedHands : IStrandHands, IAsyncDisposable
{
    private const int MostOut = 256;

    private readonly IState _state;
    private readonly string _name;
    private readonly Action<string> _warn;
    private readonly Action<long> _counted;
    private readonly OfferedWork _work;
    private readonly SharedPages _pages;
    private readonly ConcurrentDictionary<(string Pull, string Strand), Outstanding> _out = new();

    /// <param name="name">Names the landing of the run.</param>
    /// <param name="warn">Is told what the machines would have people know.</param>
    /// <param name="counted">Is told of requests of other machines.</param>
    public SharedHands(IState state, string name, TimeProvider clock, Action<string> warn, Action<long> counted)
    {
        (_state, _name, _warn, _counted) = (state, name, warn, counted);
        _work = new OfferedWork(state.Queue, name, clock, TakeOverAsync);
        _pages = new SharedPages(state, SharedPages.NameOf(name), clock, warn, counted);
    }

    /// <inheritdoc/>
    public int AtATime => MostOut;

    /// <summary>Begins. What an earlier machine offered is withdrawn: the job may have changed since.</summary>
    public async Task BeginAsync(Job job, CancellationToken cancel)
    {
        await _work.BeginAsync(cancel);
        await _pages.BeginAsync(job, cancel);
    }

    /// <inheritdoc/>
    public bool Take(Pull pull) => Takes(pull);

    /// <summary>Whether the strands of a pull can be fetched on any machine.</summary>
    public static bool Takes(Pull pull) => pull.Repeats && pull.DownloadTo is null;

    /// <inheritdoc/>
    public async Task<LandedSkip?> FetchAsync(PullContext context, Strand strand, CancellationToken cancel)
    {
        var outstanding = new Outstanding(context, strand);
        _out[(context.Pull.Name, strand.Key)] = outstanding;
        var offered = strand.Landed(context.Pull.Name);
        _work.Offer(
            new StoredStrand(
                offered.Pull,
                offered.Strand,
                offered.Values,
                offered.Carried,
                offered.Way,
                null,
                null,
                null,
                null), context.WasRestarted(strand));
        return await _work.WaitAsync(outstanding.Ended.Task, cancel);
    }

    /// <inheritdoc/>
    public Task<Answer?>? FetchAhead(StrandRun run, string position, CancellationToken cancel) =>
        SharedPages.Takes(run.Pull) ? _pages.FetchAsync(run, position, cancel) : null;

    /// <inheritdoc/>
    public async Task WithdrawAsync(string pull, string strand, IReadOnlyList<string> below, CancellationToken cancel)
    {
        await _state.Queue.WithdrawAsync(_name, pull, strand, strand + "\u0001", cancel);
        var dropped = new DroppedPages(pull, strand, 0, below);
        foreach (var child in below)
            await _state.Queue.WithdrawAsync(_name, child, dropped.FirstBelow, dropped.FirstAfter, cancel);
        _out.Clear();
        _work.Forget();
    }

    public async ValueTask DisposeAsync()
    {
        await _work.DisposeAsync();
        await _pages.DisposeAsync();
    }

    private async Task TakeOverAsync(IReadOnlyList<FinishedStrand> finished, CancellationToken cancel)
    {
        List<(FinishedStrand Strand, Outstanding Out)> known =
        [
            .. finished.Select(strand => (strand, _out.GetValueOrDefault((strand.Pull, strand.Strand))!)).Where(
                pair => pair.Item2 is not null),
        ];
        foreach (var pull in known.GroupBy(pair => pair.Strand.Pull))
            await ImportAsync(pull.Key, pull.ToDictionary(pair => pair.Strand.Strand, pair => pair.Out, StringComparer.Ordinal), cancel);
        await _state.Queue.AcceptAsync(_name, finished, cancel);
        foreach (var (strand, outstanding) in known)
        {
            _out.TryRemove((strand.Pull, strand.Strand), out _);
            Tell(JsonSerializer.Deserialize(strand.Result, RunRecordJson.Default.StrandResult)!, outstanding);
        }
    }

    private async Task ImportAsync(string pull, Dictionary<string, Outstanding> strands, CancellationToken cancel)
    {
        var pages = new List<StoredPage>();
        await foreach (var page in _state.Landings.PagesAsync(_name, (pull, [.. strands.Keys]), cancel))
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
            _warn(warning);
        _counted(result.Requests);
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
