namespace Cursiva.Core.Writes;

/// <summary>Where an item of a write stands.</summary>
public enum ItemPhase
{
    /// <summary>Its steps may be taken.</summary>
    Ready,

    /// <summary>A step is being taken; after a crash nobody knows whether it was.</summary>
    Sending,

    /// <summary>All its steps were taken.</summary>
    Sent,

    /// <summary>A step may have been taken or not, and somebody has to decide.</summary>
    InDoubt,

    /// <summary>The other side does not take it, or the item is not fit for it.</summary>
    Refused,

    /// <summary>The other side refused it in a way that the job allows.</summary>
    Skipped,

    /// <summary>It was no longer in the job's SQL, and was removed.</summary>
    Removed,
}
