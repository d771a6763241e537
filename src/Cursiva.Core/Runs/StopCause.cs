using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Runs;

/// <summary>Tells why a run stopped from what ended it.</summary>
/// <param name="StoppedBy">How it ends where somebody stops it.</param>
/// <param name="Lease">What the run holds its job by.</param>
/// <param name="Deadline">Cancelled at the run's deadline.</param>
/// <param name="Asked">Cancelled when somebody stops the run.</param>
internal sealed record StopCause(
    Func<Outcome> StoppedBy, ILease Lease, StateFolder State, CancellationToken Deadline, CancellationToken Asked)
{
    /// <summary>Whether an error is one of those that happen; any other is an internal error that is told with its place.</summary>
    public bool Knows(Exception error) => error switch
    {
        RefusedException or LandingDamagedException or IOException or UnauthorizedAccessException or SqliteException => true,
        OperationCanceledException => Asked.IsCancellationRequested
            || Lease.Lost.IsCancellationRequested
            || Deadline.IsCancellationRequested,
        _ => false,
    };

    /// <summary>How the run ends because of an error that is known.</summary>
    public Refusal Of(Exception error) => error switch
    {
        RefusedException refused => refused.Refusal,
        OperationCanceledException when Asked.IsCancellationRequested => new Refusal(
            StoppedBy(), "stopped on request; what has arrived is kept"),
        OperationCanceledException when Lease.Lost.IsCancellationRequested => State.Refuse(new LeaseLostException(Lease.Name)),
        OperationCanceledException => new Refusal(Outcome.StoppedResumable, "stopped at its deadline; what has arrived is kept")
        {
            NextStep = "run again to resume it",
        },
        LandingDamagedException => new Refusal(Outcome.InternalError, error.Message)
        {
            Cause = "the file was changed, or the disk lost data",
            NextStep = "begin a new run with --new",
        },
        _ => State.Refuse(error),
    };
}
