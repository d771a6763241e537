namespace Cursiva.Core.Runs;

/// <summary>Where a run stands.</summary>
public enum RunPhase
{
    /// <summary>Under way, or killed without a word: the lock tells which.</summary>
    Running,

    /// <summary>Ended before its end; it may be resumed.</summary>
    Stopped,

    /// <summary>Finished.</summary>
    Done,

    /// <summary>Never finished, and a newer run has begun since.</summary>
    SetAside,
}
