using Cursiva.Core.Landing;
using Cursiva.Core.Tables;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Runs;

/// <summary>A fold that is made while a run waits for its APIs. It is given up when the run ends without asking for it.</summary>
internal sealed class FoldUnderWay : IAsyncDisposable
{
    private readonly CancellationTokenSource _stop = new();
    private readonly Task<IReadOnlyList<RunRecord>> _fold;

    public FoldUnderWay(ChainFold fold) => _fold = Task.Run(() => fold.FoldAsync(_stop.Token));

    /// <summary>Waits for the fold.</summary>
    /// <param name="failed">Is told why there is none; the run is as good without it.</param>
    /// <returns>The records of the runs that have a fold now.</returns>
    public async Task<IReadOnlyList<RunRecord>> EndAsync(Action<string> failed, CancellationToken cancel)
    {
        try
        {
            return await _fold.WaitAsync(cancel);
        }
        catch (Exception error) when (
            error is IOException or UnauthorizedAccessException or LandingDamagedException or TableException or SqliteException)
        {
            failed($"the landings of older runs could not be folded into one: {error.Message}");
            return [];
        }
    }

    public async ValueTask DisposeAsync()
    {
        await _stop.CancelAsync();
        await ((Task)_fold).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        _stop.Dispose();
    }
}
