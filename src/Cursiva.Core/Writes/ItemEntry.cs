namespace Cursiva.Core.Writes;

/// <summary>What the ledger knows of an item: its last step, and what later steps and runs need.</summary>
/// <param name="Key">The values of the key's columns, as a JSON array.</param>
/// <param name="Digest">SHA-256 of what its steps are filled in with, and of the steps themselves.</param>
/// <param name="Run">The run that worked on it last.</param>
public sealed record ItemEntry(string Key, string Digest, int Run)
{
    /// <summary>Where it stands.</summary>
    public ItemPhase Phase { get; init; }

    /// <summary>The step that it stands at; empty before the first.</summary>
    public string Step { get; init; } = "";

    /// <summary>The run in which the step began to be sent, which its Idempotency-Key is made of; 0 for <see cref="Run"/>.</summary>
    public int Begun { get; init; }

    /// <summary>What the other side said, or what is wrong, cleaned; empty for nothing.</summary>
    public string Said { get; init; } = "";

    /// <summary>Since when it stands there.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Values of the row and of answers that its steps use, by placeholder, as JSON.</summary>
    public IReadOnlyDictionary<string, string> Values { get; init; } = new Dictionary<string, string>();

    /// <summary>The looks that found something, by step; those that found nothing are false.</summary>
    public IReadOnlyDictionary<string, bool> Found { get; init; } = new Dictionary<string, bool>();
}
