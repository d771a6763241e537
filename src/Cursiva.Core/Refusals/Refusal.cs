namespace Cursiva.Core.Refusals;

/// <summary>What happened, why it probably did, and what to do next (promise 9).</summary>
/// <param name="Outcome">How the command ends because of it.</param>
/// <param name="What">One calm sentence: what was tried and what came back.</param>
public sealed record Refusal(Outcome Outcome, string What)
{
    /// <summary>The likely cause, when one is known.</summary>
    public string? Cause { get; init; }

    /// <summary>The entry of the catalogue that the cause is from.</summary>
    public string? Diagnosis { get; init; }

    /// <summary>Other causes that fit, less closely.</summary>
    public IReadOnlyList<string> Others { get; init; } = [];

    /// <summary>An address that the other side names for what is to be done; null when it names none.</summary>
    public string? Link { get; init; }

    /// <summary>The scope that the other side says it wants; null when it does not say.</summary>
    public string? WantedScope { get; init; }

    /// <summary>The next step for the reader.</summary>
    public string? NextStep { get; init; }

    /// <summary>
    /// The step of an encrypted or signed exchange that failed: public key, session key, answer, signature; null for none of these.
    /// </summary>
    public string? Step { get; init; }

    /// <summary>The HTTP status of the answer that was refused with; null without one.</summary>
    public int? Status { get; init; }

    /// <summary>Whether the request may have done its work although no answer to it came.</summary>
    public bool MayHaveArrived { get; init; }

    /// <summary>The other side's own words.</summary>
    public string? Quote { get; init; }

    /// <summary>The request it was: method, URL without secrets, status, attempt.</summary>
    public string? Request { get; init; }
}
