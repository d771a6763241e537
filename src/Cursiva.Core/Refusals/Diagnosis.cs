namespace Cursiva.Core.Refusals;

/// <summary>One entry of the catalogue: the facts it fits, the likely cause and the next step.</summary>
/// <param name="Desk">Who refuses; null fits both.</param>
/// <param name="Statuses">The statuses it fits; empty fits all.</param>
/// <param name="Errors">The error codes it fits; empty fits all.</param>
public sealed record Diagnosis(Desk? Desk, Trouble Trouble, IReadOnlyList<int> Statuses, IReadOnlyList<string> Errors, string Cause, string NextStep)
{
    /// <summary>Whether the entry fits, and how closely: the more it asks for, the closer. Null when it does not fit.</summary>
    public int? Fit(Facts facts)
    {
        if (facts.Trouble != Trouble
            || (Desk is { } desk && desk != facts.Desk)
            || (Statuses.Count > 0 && !Statuses.Contains(facts.Status))
            || (Errors.Count > 0 && (facts.Error is null || !Errors.Contains(facts.Error))))
        {
            return null;
        }

        return (Desk is null ? 0 : 1) + (Statuses.Count > 0 ? 2 : 0) + (Errors.Count > 0 ? 4 : 0);
    }
}
