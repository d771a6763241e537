namespace Cursiva.Core.Refusals;

/// <summary>How a command ended; the numbers are the exit codes of the program. The first cause wins.</summary>
public enum Outcome
{
    /// <summary>Everything was done.</summary>
    Done = 0,
    /// <summary>An internal error.</summary>
    InternalError = 1,
    /// <summary>The command line is wrong.</summary>
    WrongCommandLine = 2,
    /// <summary>The job file is wrong.</summary>
    JobFileWrong = 3,
    /// <summary>A sign-in was refused.</summary>
    SignInRefused = 4,
    /// <summary>An API refused, failed or contradicted itself.</summary>
    ApiFailed = 5,
    /// <summary>More strands were skipped than the job allows.</summary>
    TooManySkips = 6,
    /// <summary>Stopped by a bound, to be resumed.</summary>
    StoppedResumable = 7,
    /// <summary>A report could not be written or a requirement did not hold.</summary>
    ReportFailed = 8,
    /// <summary>The run is done, and something has not left the machine.</summary>
    DeliveryFailed = 9,
    /// <summary>Another process runs the job.</summary>
    AlreadyRunning = 10,
    /// <summary>Stopped by SIGINT, to be resumed.</summary>
    Interrupted = 130,
    /// <summary>Stopped by SIGTERM or SIGHUP, to be resumed.</summary>
    Terminated = 143,
}
