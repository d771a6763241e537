using System.Globalization;
using System.Text;
using System.Text.Json;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>Where a process that runs a job and others that look at it tell each other something.</summary>
/// <param name="job">The job's name.</param>
public sealed class PulseBoard(INotes notes, string job)
{
    private string Name => $"jobs/{job}/pulse.json";

    private string StopName => $"jobs/{job}/stop";

    /// <summary>What was told last; null where no run is under way.</summary>
    public async Task<Pulse?> ReadAsync(CancellationToken cancel)
    {
        try
        {
            return await notes.ReadAsync(Name, cancel) is { } note ? JsonSerializer.Deserialize(note, RunRecordJson.Default.Pulse) : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>What was told last, if the run still goes on.</summary>
    public async Task<Pulse?> AliveAsync(TimeProvider clock, CancellationToken cancel) =>
        await ReadAsync(cancel) is { } pulse && pulse.IsAlive(clock.GetUtcNow()) ? pulse : null;

    /// <summary>Tells how the run goes.</summary>
    /// <exception cref="IOException">It cannot be told.</exception>
    public Task WriteAsync(Pulse pulse, CancellationToken cancel) =>
        notes.WriteAsync(Name, JsonSerializer.SerializeToUtf8Bytes(pulse, RunRecordJson.Default.Pulse), cancel);

    /// <summary>Nobody is at the run any more.</summary>
    /// <exception cref="IOException">It cannot be told.</exception>
    public async Task ClearAsync(CancellationToken cancel)
    {
        await notes.ClearAsync(Name, cancel);
        await notes.ClearAsync(StopName, cancel);
    }

    /// <summary>Asks the process that runs the job to stop.</summary>
    /// <param name="run">The run that is meant: a later one does not stop.</param>
    /// <exception cref="IOException">It cannot be told.</exception>
    public Task AskToStopAsync(int run, CancellationToken cancel) => notes.WriteAsync(StopName, Words(run), cancel);

    /// <summary>Whether somebody has asked this run to stop.</summary>
    public async Task<bool> IsAskedToStopAsync(int run, CancellationToken cancel) =>
        (await notes.ReadAsync(StopName, cancel))?.AsSpan().SequenceEqual(Words(run)) == true;

    private static byte[] Words(int run) => Encoding.ASCII.GetBytes(run.ToString(CultureInfo.InvariantCulture));
}
