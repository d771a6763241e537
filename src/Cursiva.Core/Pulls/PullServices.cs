using Cursiva.Core.Apis;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Pulls;

/// <summary>What pulls work with.</summary>
/// <param name="Client">Opens the client for a strand of a pull, from the strand's values.</param>
/// <param name="Mark">The mark, or delta token, of the last good run for a pull and the values of a strand; null for none.</param>
/// <param name="OddFolder">Takes pages that were not understood, for inspection.</param>
/// <param name="OutFolder">Takes downloaded files.</param>
/// <param name="Warn">Is told of what stops nothing, and a person should know.</param>
public sealed record PullServices(
    Job Job,
    RunLanding Landing,
    Func<Pull, Func<string, string?>, CancellationToken, Task<ApiClient>> Client,
    Func<Pull, string, string?> Mark,
    SecretSources Secrets,
    IDisk Disk,
    string OddFolder,
    string OutFolder,
    Backoff Backoff,
    Budget Budget,
    TimeProvider Clock,
    IRequestWatch Requests,
    IPullWatch Watch,
    Action<string> Warn)
{
    /// <summary>The values of the job's inputs, by name.</summary>
    public IReadOnlyDictionary<string, string> Inputs { get; } = Job.Inputs.ToDictionary(input => input.Name, input => input.Value, StringComparer.Ordinal);
}
