using Cursiva.Core.Apis;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Pulls;

/// <summary>What pulls work with.</summary>
/// <param name="Client">Opens the client for a strand of a pull, from the strand's values.</param>
/// <param name="OddFolder">Takes pages that were not understood, for inspection.</param>
/// <param name="OutFolder">Takes downloaded files.</param>
/// <param name="Warn">Is told of what stops nothing, and a person should know.</param>
/// <param name="Anew">Keeps, durably, that a strand of a pull, by its values, starts over though earlier runs brought rows of it.</param>
public sealed record PullServices(
    Job Job,
    RunLanding Landing,
    Func<Pull, Func<string, string?>, CancellationToken, Task<ApiClient>> Client,
    IPullPast Past,
    SecretSources Secrets,
    Redactor Redactor,
    IDisk Disk,
    string OddFolder,
    string OutFolder,
    Backoff Backoff,
    Budget Budget,
    TimeProvider Clock,
    IRequestWatch Requests,
    IPullWatch Watch,
    Action<string> Warn,
    Func<Pull, string, Task> Anew)
{
    /// <summary>Fetches strands on other machines as well; null where this one does it all.</summary>
    internal IStrandHands? Hands { get; init; }

    /// <summary>The values of the job's inputs, by name.</summary>
    public IReadOnlyDictionary<string, string> Inputs { get; } = Job.Inputs.ToDictionary(
        input => input.Name, input => input.Value, StringComparer.Ordinal);
}
