using System.Numerics;

namespace Cursiva.Core.Refusals;

/// <summary>One entry of the catalogue: the facts it fits, the likely cause and the next step.</summary>
/// <param name="Id">Names the entry, for tests and the page.</param>
/// <param name="Cause">The likely cause, as a part of a sentence.</param>
/// <param name="NextStep">What to do; <c>{link}</c> and its like stand for what the answer names, see <see cref="AnswerParts"/>.</param>
public sealed record Diagnosis(string Id, string Cause, string NextStep)
{
    // What stands in the answer counts more than what can be seen on this side, and that more than what is usual. Codes that servers
    // give for nearly everything are no statement.
    private const int Said = 1000;
    private const int Coded = 700;
    private const int Seen = 500;
    private const int Usual = 200;
    private const int ByStatus = 100;

    private static readonly string[] s_usual = ["invalid_client", "invalid_grant", "invalid_request", "access_denied", "invalid_token"];

    /// <summary>Who refuses; null fits both.</summary>
    public Desk? Desk { get; init; }

    /// <summary>What it is about.</summary>
    public Trouble Trouble { get; init; } = Trouble.Status;

    /// <summary>Whether it fits web pages that came with a success as well.</summary>
    public bool OfPages { get; init; }

    /// <summary>The statuses it fits; empty fits all.</summary>
    public IReadOnlyList<int> Statuses { get; init; } = [];

    /// <summary>The error codes it fits; empty fits all.</summary>
    public IReadOnlyList<string> Errors { get; init; } = [];

    /// <summary>What the answer has to say; null fits all.</summary>
    public Saying? Says { get; init; }

    /// <summary>All of these have to hold.</summary>
    public Circumstances When { get; init; }

    /// <summary>With any of these the cause cannot be.</summary>
    public Circumstances Never { get; init; }

    /// <summary>Whether the entry fits, and how strong its evidence is. Null when it does not fit.</summary>
    /// <param name="words">What the answer says, see <see cref="AnswerWords"/>.</param>
    public int? Fit(Facts facts, string words)
    {
        if (!(facts.Trouble == Trouble || (OfPages && facts.Trouble == Trouble.Html))
            || (Desk is { } desk && desk != facts.Desk)
            || (Statuses.Count > 0 && !Statuses.Contains(facts.Status))
            || (Errors.Count > 0 && (facts.Error is null || !Errors.Contains(facts.Error)))
            || (facts.Circumstances & When) != When
            || (facts.Circumstances & Never) != Circumstances.None
            || Says?.IsIn(words) == false)
        {
            return null;
        }

        var seen = BitOperations.PopCount((uint)When);
        return Says is not null ? Said
            : Errors.Any(error => !s_usual.Contains(error)) ? Coded + seen
            : IsProof ? Seen + seen
            : Errors.Count > 0 ? Usual + (seen * 10) + (Statuses.Count > 0 ? 1 : 0)
            : Statuses.Count > 0 ? ByStatus + seen
            : seen > 0 ? ByStatus : Desk is null && Trouble == Trouble.Status ? 0 : 1;
    }

    /// <summary>Whether what is seen on this side contradicts the request by itself, whatever the answer says.</summary>
    public bool IsProof { get; init; }

    /// <summary>Whether the entry says more than that something was refused.</summary>
    public bool IsSpecific => Errors.Count > 0 || Says is not null || When != Circumstances.None || Statuses.Count > 0;
}
