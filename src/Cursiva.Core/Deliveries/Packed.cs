namespace Cursiva.Core.Deliveries;

/// <summary>What lies in the outbox.</summary>
/// <param name="To">Who or what receives it, for people.</param>
/// <param name="Files">Names as the receiver sees them, in the order of the outbox.</param>
public sealed record Packed(string To, IReadOnlyList<string> Files)
{
    /// <summary>The addresses that it goes to; empty where it goes to one place.</summary>
    public IReadOnlyList<string> Recipients { get; init; } = [];

    /// <summary>Why it cannot be sent; null where it can.</summary>
    public string? Refused { get; init; }
}
