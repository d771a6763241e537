using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>What a run works with.</summary>
/// <param name="State">The state folder of this machine.</param>
/// <param name="Engine">Opens the state.</param>
/// <param name="Environment">Looks up an environment variable.</param>
/// <param name="Holder">What others are told while this process runs the job.</param>
public sealed record RunOptions(
    StartChoice Choice,
    StateFolder State,
    IStateEngine Engine,
    IDisk Disk,
    TimeProvider Clock,
    Redactor Redactor,
    Func<string, string?> Environment,
    string Holder)
{
    /// <summary>When a new run is said to have begun; null for now.</summary>
    public DateTimeOffset? Began { get; init; }

    /// <summary>Whether other machines may work on the run as well.</summary>
    public bool Together { get; init; }

    /// <summary>The only run that may be resumed; null for any, or a new one.</summary>
    public int? OnlyRun { get; init; }

    /// <summary>Gives numbers from 0 up to 1, for the jitter of retries.</summary>
    public Func<double> Random { get; init; } = System.Random.Shared.NextDouble;

    /// <summary>When the run has to be over; null for never.</summary>
    public DateTimeOffset? Deadline { get; init; }

    /// <summary>Most requests to APIs; null for any number.</summary>
    public long? MaxRequests { get; init; }

    /// <summary>How a run ends that somebody stops: interrupted or terminated.</summary>
    public Func<Outcome> StoppedBy { get; init; } = () => Outcome.Interrupted;

    /// <summary>Whether incremental pulls ask for everything, whatever earlier runs brought.</summary>
    public bool Full { get; init; }

    /// <summary>Whether it tells others once a second how it goes, and stops when they ask.</summary>
    public bool CanBeWatched { get; init; }

    /// <summary>Whether deliveries are entered into the ledger and not sent.</summary>
    public bool NoDeliveries { get; init; }

    /// <summary>Puts something else in the place of the network and of sign-ins; null for these.</summary>
    public Func<SignInServices, SignInServices>? Through { get; init; }

    /// <summary>Is told what a rehearsal has to know of the run; null for nobody.</summary>
    public Action<RunNotes>? Noted { get; init; }

    /// <summary>Is told every exchange; null for nobody.</summary>
    public IExchangeWatch? Trace { get; init; }
}
