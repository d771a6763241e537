namespace Cursiva.Core.Ledger;

/// <summary>Where something stands that is to leave the machine.</summary>
public enum LedgerPhase
{
    /// <summary>It may be sent.</summary>
    Ready,

    /// <summary>It is being sent; after a crash nobody knows whether it left.</summary>
    Sending,

    /// <summary>The other side has it.</summary>
    Sent,

    /// <summary>It may have left or not, and somebody has to decide.</summary>
    InDoubt,

    /// <summary>The other side does not take it.</summary>
    Refused,

    /// <summary>It is not sent any more: its time is over, or somebody decided so.</summary>
    GivenUp,
}
