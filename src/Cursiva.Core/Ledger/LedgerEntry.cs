namespace Cursiva.Core.Ledger;

/// <summary>Something that is to leave the machine, once.</summary>
/// <param name="Id">Names it within its job: the delivery and the run.</param>
/// <param name="Of">The delivery or write that it belongs to.</param>
/// <param name="Run">The run that it comes from.</param>
/// <param name="To">Who or what receives it, for people.</param>
/// <param name="Digest">SHA-256 of the rows that it brings; empty where it brings none.</param>
/// <param name="Files">What the outbox holds of it: names as the receiver sees them.</param>
/// <param name="Since">When it was ready first.</param>
public sealed record LedgerEntry(string Id, string Of, int Run, string To, string Digest, IReadOnlyList<string> Files, DateTimeOffset Since)
{
    /// <summary>Where it stands.</summary>
    public LedgerPhase Phase { get; init; }

    /// <summary>Since when it stands there.</summary>
    public DateTimeOffset At { get; init; } = Since;

    /// <summary>The addresses that it goes to; empty where it goes to one place.</summary>
    public IReadOnlyList<string> Recipients { get; init; } = [];

    /// <summary>Those of them who have it, where not all have it.</summary>
    public IReadOnlyList<string> Taken { get; init; } = [];

    /// <summary>What tells it apart from others of its delivery and run: the value of its file; empty where there is one alone.</summary>
    public string About { get; init; } = "";

    /// <summary>Whether it is a write: a batch of items that requests are made for; otherwise a delivery.</summary>
    public bool IsWrite { get; init; }

    /// <summary>Whether somebody decided by hand that it is sent, whatever number of changes that makes.</summary>
    public bool Insists { get; init; }

    /// <summary>How often it was tried.</summary>
    public int Attempts { get; init; }

    /// <summary>What the other side said last, cleaned; empty when it said nothing.</summary>
    public string Said { get; init; } = "";

    /// <summary>Whether later starts have something to do with it.</summary>
    public bool IsPending => Phase is LedgerPhase.Ready or LedgerPhase.Sending or LedgerPhase.InDoubt;
}
