using System.Numerics;

namespace Cursiva.Core.Refusals;

/// <summary>One entry of the catalogue: the facts it fits, the likely cause and the next step.</summary>
/// <param name="Id">Names the entry, for tests and the page.</param>
/// <param name="Cause">The likely cause, as a part of a sentence.</param>
/// <param name="NextStep">What to do; <c>{link}</c> stands for the first address in the answer.</param>
public sealed record Diagnosis(string Id, string Cause, string NextStep)
{
    /// <summary>Who refuses; null fits both.</summary>
    public Desk? Desk { get; init; }

    public Trouble Trouble { get; init; } = Trouble.Status;

    /// <summary>The statuses it fits; empty fits all.</summary>
    public IReadOnlyList<int> Statuses { get; init; } = [];

    /// <summary>The error codes it fits; empty fits all.</summary>
    public IReadOnlyList<string> Errors { get; init; } = [];

    /// <summary>One of these has to stand in the answer's words, upper or lower case; words joined by + all have to. Empty fits all.</summary>
    public IReadOnlyList<string> Words { get; init; } = [];

    /// <summary>All of these have to hold.</summary>
    public Circumstances When { get; init; }

    /// <summary>Whether the entry fits, and how closely: the more it asks for, the closer. Null when it does not fit.</summary>
    public int? Fit(Facts facts)
    {
        if (facts.Trouble != Trouble
            || (Desk is { } desk && desk != facts.Desk)
            || (Statuses.Count > 0 && !Statuses.Contains(facts.Status))
            || (Errors.Count > 0 && (facts.Error is null || !Errors.Contains(facts.Error)))
            || (facts.Circumstances & When) != When
            || (Words.Count > 0 && !Words.Any(words => words.Split('+').All(word => facts.Words.Contains(word, StringComparison.OrdinalIgnoreCase)))))
        {
            return null;
        }

        return (Desk is null ? 0 : 1) + (Statuses.Count > 0 ? 2 : 0) + (Errors.Count > 0 ? 4 : 0) + (Words.Count > 0 ? 8 : 0) + (10 * BitOperations.PopCount((uint)When));
    }

    /// <summary>Whether the entry says more than that something was refused.</summary>
    public bool IsSpecific => Errors.Count > 0 || Words.Count > 0 || When != Circumstances.None || Statuses.Count > 0;
}
