using System.Runtime.InteropServices;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli;

/// <summary>Turns SIGINT, SIGTERM and SIGHUP into an orderly stop; a second signal ends the process at once.</summary>
internal sealed class Shutdown : IDisposable
{
    private readonly CancellationTokenSource _stop = new();
    private readonly PosixSignalRegistration[] _signals;

    public Shutdown() =>
        _signals =
        [
            PosixSignalRegistration.Create(PosixSignal.SIGINT, Handle),
            PosixSignalRegistration.Create(PosixSignal.SIGTERM, Handle),
            PosixSignalRegistration.Create(PosixSignal.SIGHUP, Handle),
        ];

    public CancellationToken Token => _stop.Token;

    /// <summary>How a stopped command ends: 130 after SIGINT, 143 after SIGTERM and SIGHUP.</summary>
    public Outcome Outcome { get; private set; } = Outcome.Interrupted;

    public void Dispose()
    {
        foreach (var signal in _signals)
            signal.Dispose();
        _stop.Dispose();
    }

    private void Handle(PosixSignalContext context)
    {
        if (_stop.IsCancellationRequested)
            return; // The default of a second signal: the process ends.
        context.Cancel = true;
        Outcome = context.Signal == PosixSignal.SIGINT ? Outcome.Interrupted : Outcome.Terminated;
        _stop.Cancel();
    }
}
