namespace Cursiva.Core.Runs;

/// <summary>Measures how long the stages of a run take.</summary>
internal sealed class StageClock(TimeProvider clock)
{
    private readonly Dictionary<string, double> _seconds = [];

    /// <summary>Seconds by stage, so far.</summary>
    public Dictionary<string, double> Seconds => new(_seconds.Select(pair => KeyValuePair.Create(pair.Key, Math.Round(pair.Value, 3))));

    /// <summary>The stage that is under way; empty between stages.</summary>
    public string Now { get; private set; } = "";

    /// <summary>Measures a stage, however it ends.</summary>
    public async Task MeasureAsync(string stage, Func<Task> work)
    {
        Now = stage;
        var start = clock.GetTimestamp();
        try
        {
            await work();
        }
        finally
        {
            Now = "";
            _seconds[stage] = _seconds.GetValueOrDefault(stage) + clock.GetElapsedTime(start).TotalSeconds;
        }
    }

    /// <summary>Measures a stage that brings something, however it ends.</summary>
    public async Task<T> MeasureAsync<T>(string stage, Func<Task<T>> work)
    {
        T? result = default;
        await MeasureAsync(stage, async () =>
        {
            result = await work();
        });
        return result!;
    }
}
