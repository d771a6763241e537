namespace Cursiva.Core.Runs;

/// <summary>Tells others about once a second how a run goes, and hears whether it is to stop.</summary>
internal sealed class RunPulse : IAsyncDisposable
{
    private static readonly TimeSpan s_between = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan s_longestGoodbye = TimeSpan.FromSeconds(1);

    private readonly PulseBoard _board;
    private readonly Func<Pulse> _look;
    private readonly TimeProvider _clock;
    private readonly CancellationTokenSource _ended = new();
    private readonly CancellationTokenSource _stop = new();
    private readonly Task _work;

    /// <param name="run">The number of the run.</param>
    /// <param name="look">How the run goes now.</param>
    public RunPulse(PulseBoard board, int run, Func<Pulse> look, TimeProvider clock)
    {
        (_board, _look, _clock) = (board, look, clock);
        _work = Task.Run(() => BeatAsync(run));
    }

    /// <summary>Is cancelled when somebody asks the run to stop.</summary>
    public CancellationToken Stop => _stop.Token;

    public async ValueTask DisposeAsync()
    {
        await _ended.CancelAsync();
        await _work;
        using var soon = new CancellationTokenSource(s_longestGoodbye, _clock);
        await TriedAsync(() => _board.ClearAsync(soon.Token));
        _ended.Dispose();
        _stop.Dispose();
    }

    private async Task BeatAsync(int run)
    {
        try
        {
            await TriedAsync(() => _board.ClearAsync(_ended.Token));
            await TriedAsync(() => _board.WriteAsync(_look(), _ended.Token));
            while (true)
            {
                await Task.Delay(s_between, _clock, _ended.Token);
                await TriedAsync(async () =>
                {
                    if (!_stop.IsCancellationRequested && await _board.IsAskedToStopAsync(run, _ended.Token))
                        await _stop.CancelAsync();
                    await _board.WriteAsync(_look(), _ended.Token);
                });
            }
        }
        catch (OperationCanceledException) when (_ended.IsCancellationRequested)
        {
            // The run is over.
        }
    }

    // That others can watch is worth no run: a full disk is told by what matters, and the next second may do better.
    private async Task TriedAsync(Func<Task> tell)
    {
        try
        {
            await tell();
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException
            || (error is OperationCanceledException && !_ended.IsCancellationRequested))
        {
            // It is silent from now on, and soon nobody believes it any more.
        }
    }
}
