namespace Cursiva.Core.Refusals;

/// <summary>How a command ended; the numbers are the exit codes of the program. The first cause wins.</summary>
public enum Outcome
{
    Done = 0,
    OurFault = 1,
    WrongCommandLine = 2,
    JobFileWrong = 3,
    SignInRefused = 4,
    ApiFailed = 5,
    TooManySkips = 6,
    StoppedResumable = 7,
    ReportFailed = 8,
    DeliveryFailed = 9,
    AlreadyRunning = 10,
    Interrupted = 130,
    Terminated = 143,
}
