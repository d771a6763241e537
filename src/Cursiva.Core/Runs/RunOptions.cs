using Cursiva.Core.Files;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>What a run works with.</summary>
/// <param name="Environment">Looks up an environment variable.</param>
/// <param name="Holder">What others are told while this process runs the job.</param>
/// <param name="Memory">Bytes that the SQL engine's buffers may take.</param>
public sealed record RunOptions(
    StartChoice Choice,
    StateFolder State,
    IDisk Disk,
    TimeProvider Clock,
    Redactor Redactor,
    Func<string, string?> Environment,
    string Holder,
    long Memory = 1024L * 1024 * 1024)
{
    /// <summary>Gives numbers from 0 up to 1, for the jitter of retries.</summary>
    public Func<double> Random { get; init; } = System.Random.Shared.NextDouble;
}
