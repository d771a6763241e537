using System.Buffers;
using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// Has counted pages of a listing, and parts of an export, fetched by whichever machine is free. Their answers come here by the database as
/// they were, and are read, checked and landed here in their order, as if this machine had asked.
/// </summary>
internal sealed class SharedPages : IAsyncDisposable
{
    private static readonly TimeSpan s_longestGoodbye = TimeSpan.FromSeconds(1);

    private readonly IState _state;
    private readonly string _name;
    private readonly TimeProvider _clock;
    private readonly Action<string> _warn;
    private readonly Action<long> _counted;
    private readonly OfferedWork _work;
    private readonly ConcurrentDictionary<(string Pull, string Key), Outstanding> _out = new();
    private readonly ConcurrentQueue<(string Pull, string Key)> _over = new();
    private string[] _pulls = [];
    private long _nth;

    /// <param name="name">Names what is fetched: see <see cref="NameOf"/>.</param>
    /// <param name="warn">Is told what the machines would have people know.</param>
    /// <param name="counted">Is told of requests of other machines.</param>
    public SharedPages(IState state, string name, TimeProvider clock, Action<string> warn, Action<long> counted)
    {
        (_state, _name, _clock, _warn, _counted) = (state, name, clock, warn, counted);
        _work = new OfferedWork(state.Queue, name, clock, TakeOverAsync);
    }

    /// <summary>Names what is fetched ahead for a landing.</summary>
    public static string NameOf(string landing) => landing + "-ahead";

    /// <summary>Whether parts of a pull's only strand can be fetched on any machine.</summary>
    public static bool Takes(Pull pull) =>
        !pull.Repeats && pull.DownloadTo is null && (pull.Paging.Style.IsCounted || pull.Export is { IsWhole: false });

    /// <summary>Begins. What an earlier machine had fetched ahead is dropped.</summary>
    public async Task BeginAsync(Job job, CancellationToken cancel)
    {
        _pulls = [.. job.Pulls.Where(Takes).Select(pull => pull.Name)];
        if (_pulls.Length == 0)
            return;
        await _work.BeginAsync(cancel);
        await _state.Landings.DropAsync(_name, _pulls, cancel);
    }

    /// <summary>Has something fetched.</summary>
    /// <param name="position">The position of a page, or the address of a part.</param>
    /// <returns>Null when the API refuses for a reason that the job allows.</returns>
    /// <exception cref="RefusedException">The API refused.</exception>
    /// <exception cref="StrandRestart">The position is not known any more.</exception>
    /// <exception cref="TransportException">It did not come whole.</exception>
    public async Task<Answer?> FetchAsync(StrandRun run, string position, CancellationToken cancel)
    {
        // Keys go up: what is needed first is taken first.
        var key = Interlocked.Increment(ref _nth).ToString("D12", CultureInfo.InvariantCulture);
        var outstanding = new Outstanding(run);
        _out[(run.Pull.Name, key)] = outstanding;
        _work.Offer(new StoredStrand(run.Pull.Name, key, position, "{}", "", null, null, null, null));
        return await _work.WaitAsync(outstanding.Ended.Task, cancel);
    }

    public async ValueTask DisposeAsync()
    {
        await _work.DisposeAsync();
        if (_pulls.Length == 0)
            return;
        try
        {
            using var soon = new CancellationTokenSource(s_longestGoodbye, _clock);
            await _state.Landings.DropAsync(_name, _pulls, soon.Token);
        }
        catch (Exception error) when (error is IOException or OperationCanceledException or RefusedException)
        {
            // Whoever resumes the run drops it.
        }
    }

    private async Task TakeOverAsync(IReadOnlyList<FinishedStrand> finished, CancellationToken cancel)
    {
        foreach (var one in finished)
        {
            if (!_out.TryRemove((one.Pull, one.Strand), out var outstanding))
            {
                _over.Enqueue((one.Pull, one.Strand));
                continue;
            }

            var result = JsonSerializer.Deserialize(one.Result, RunRecordJson.Default.StrandResult)!;
            foreach (var warning in result.Warnings)
                _warn(warning);
            _counted(result.Requests);
            if (result.Refusal is { } refusal)
                outstanding.Ended.TrySetException(new RefusedException(refusal));
            else if (result.Restart is { } why)
                outstanding.Ended.TrySetException(new StrandRestart(outstanding.Run.Context, outstanding.Run.Strand, why));
            else if (result.Broken is { } broken)
                outstanding.Ended.TrySetException(new TransportException(Trouble.CutOff, broken));
            else
                outstanding.Ended.TrySetResult(
                    result.Answer is null ? outstanding.Run.SkipAs(result.Skip!) : await AnswerAsync(result.Answer, one, cancel));
        }

        await _state.Queue.AcceptAsync(_name, finished, cancel);
        List<StoredChange> over = [];
        while (_over.TryDequeue(out var read))
            over.Add(new StoredDrop(read.Pull, read.Key, 0, []));
        if (over.Count > 0)
            await _state.Landings.AddAsync(_name, over, cancel);
    }

    private async Task<Answer> AnswerAsync(PageAnswer answer, FinishedStrand fetched, CancellationToken cancel)
    {
        var pieces = _state.Landings.PagesAsync(_name, (fetched.Pull, [fetched.Strand]), CancellationToken.None);
        if (!answer.IsStream)
        {
            var body = new ArrayBufferWriter<byte>();
            await foreach (var piece in pieces.WithCancellation(cancel))
                body.Write(piece.Lines().Span);
            _over.Enqueue((fetched.Pull, fetched.Strand));
            return answer.With(body.WrittenSpan, null);
        }

        var stream = answer.With([], new PieceStream(pieces));
        stream.WhenRead(() => _over.Enqueue((fetched.Pull, fetched.Strand)));
        return stream;
    }

    private sealed record Outstanding(StrandRun Run)
    {
        public TaskCompletionSource<Answer?> Ended { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);
    }
}
