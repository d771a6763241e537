namespace Cursiva.Core.Runs;

/// <summary>Tells others about once a second how a run goes, and hears whether it is to stop.</summary>
internal sealed class RunPulse : IAsyncDisposable
{
    private static readonly TimeSpan s_between = TimeSpan.FromSeconds(1);

    private readonly PulseFile _file;
    private readonly Func<Pulse> _look;
    private readonly CancellationTokenSource _ended = new();
    private readonly CancellationTokenSource _stop = new();
    private readonly Task _work;

    /// <param name="run">The number of the run.</param>
    /// <param name="look">How the run goes now.</param>
    public RunPulse(PulseFile file, int run, Func<Pulse> look, TimeProvider clock)
    {
        (_file, _look) = (file, look);
        file.Clear();
        Tell();
        _work = Task.Run(() => BeatAsync(run, clock));
    }

    /// <summary>Is cancelled when somebody asks the run to stop.</summary>
    public CancellationToken Stop => _stop.Token;

    public async ValueTask DisposeAsync()
    {
        await _ended.CancelAsync();
        await _work;
        try
        {
            _file.Clear();
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            // It is silent from now on, and soon nobody believes it any more.
        }

        _ended.Dispose();
        _stop.Dispose();
    }

    private async Task BeatAsync(int run, TimeProvider clock)
    {
        try
        {
            while (true)
            {
                await Task.Delay(s_between, clock, _ended.Token);
                if (!_stop.IsCancellationRequested && _file.IsAskedToStop(run))
                    await _stop.CancelAsync();
                Tell();
            }
        }
        catch (OperationCanceledException)
        {
            // The run is over.
        }
    }

    // That others can watch is worth no run: a full disk is told by what matters.
    private void Tell()
    {
        try
        {
            _file.Write(_look());
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            // The next second may do better.
        }
    }
}
