namespace Cursiva.Core.Refusals;

/// <summary>What refusals mean and what to do next: data, so that a new insight is a new line.</summary>
public static class Catalogue
{
    private const int MostOthers = 2;

    // What is known of these belongs to the causes that rest on them.
    private const Circumstances Detailed =
        Circumstances.WhiteSpaceInId | Circumstances.WhiteSpaceInSecret | Circumstances.ClocksDiffer | Circumstances.OtherAudience | Circumstances.PermissionMissing;

    /// <summary>Every diagnosis, the first that fits wins.</summary>
    public static IReadOnlyList<Diagnosis> Entries { get; } =
        [
            .. AccessRefusals.Entries,
            .. SignInRefusals.Entries,
            .. RefreshRefusals.Entries,
            .. AssertionRefusals.Entries,
            .. SignInUsual.Entries,
            .. ApiRefusals.Entries,
            .. ApiUsual.Entries,
            .. TransportRefusals.Entries,
        ];

    /// <summary>The entries that fit, the strongest evidence first; of equal evidence the one that stands first in the catalogue.</summary>
    public static IReadOnlyList<Diagnosis> Explain(Facts facts)
    {
        var words = AnswerWords.Of(facts.Words);
        return
        [
            .. Entries
                .Select((entry, place) => (entry, place, fit: entry.Fit(facts, words)))
                .Where(candidate => candidate.fit is not null)
                .OrderByDescending(candidate => candidate.fit)
                .ThenBy(candidate => candidate.place)
                .Select(candidate => candidate.entry),
        ];
    }

    /// <summary>A refusal with the closest diagnosis, and the next closest beside it.</summary>
    public static Refusal Refuse(Facts facts, string what, string? quote = null, string? request = null)
    {
        var fitting = Explain(facts);
        var closest = fitting is [var first, ..] ? first : null;
        var details = facts.Details.Count == 0 || ((closest?.When ?? Circumstances.None) & Detailed) == Circumstances.None
            ? ""
            : $" ({string.Join("; ", facts.Details)})";
        return new Refusal(facts.Desk == Desk.SignIn ? Outcome.SignInRefused : Outcome.ApiFailed, what)
        {
            Diagnosis = closest?.Id,
            Cause = closest is null ? null : closest.Cause + details,
            NextStep = closest is null ? null : AnswerParts.Fill(closest.NextStep, facts.Words),
            Others = [.. fitting.Skip(1)
                .Where(other => other.IsSpecific && other.Cause != closest!.Cause)
                .Select(other => other.Cause)
                .Distinct()
                .Take(MostOthers)],
            Status = facts.Status > 0 ? facts.Status : null,
            Quote = quote,
            Link = AnswerParts.Link(facts.Words),
            WantedScope = AnswerParts.WantedScope(facts.Words),
            Request = request,
        };
    }
}
