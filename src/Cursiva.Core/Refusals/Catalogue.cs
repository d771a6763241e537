using System.Text.RegularExpressions;

namespace Cursiva.Core.Refusals;

/// <summary>What refusals mean and what to do next: data, so that a new insight is a new line.</summary>
public static partial class Catalogue
{
    private const int MostOthers = 2;

    public static IReadOnlyList<Diagnosis> Entries { get; } = [.. SignInRefusals.Entries, .. ApiRefusals.Entries, .. TransportRefusals.Entries];

    /// <summary>The entries that fit, the closest first.</summary>
    public static IReadOnlyList<Diagnosis> Explain(Facts facts) =>
    [
        .. Entries
            .Select((entry, place) => (entry, place, fit: entry.Fit(facts)))
            .Where(candidate => candidate.fit is not null)
            .OrderByDescending(candidate => candidate.fit)
            .ThenBy(candidate => candidate.place)
            .Select(candidate => candidate.entry),
    ];

    /// <summary>A refusal with the closest diagnosis, and the next closest beside it.</summary>
    public static Refusal Refuse(Facts facts, string what, string? quote = null, string? request = null)
    {
        var fitting = Explain(facts);
        var closest = fitting is [var first, ..] ? first : null;
        var details = facts.Details.Count == 0 ? "" : $" ({string.Join("; ", facts.Details)})";
        return new Refusal(facts.Desk == Desk.SignIn ? Outcome.SignInRefused : Outcome.ApiFailed, what)
        {
            Diagnosis = closest?.Id,
            Cause = closest is null ? null : closest.Cause + details,
            NextStep = closest?.NextStep.Replace("{link}", Link(facts.Words)),
            Others = [.. fitting.Skip(1).Where(other => other.IsSpecific).Take(MostOthers).Select(other => other.Cause)],
            Quote = quote,
            Request = request,
        };
    }

    private static string Link(string words) =>
        Address().Match(words) is { Success: true } match ? match.Value.TrimEnd('.', ',', ')', '"', '\'') : "the administration page that the answer names";

    [GeneratedRegex(@"https?://[^\s""<>\\]+")]
    private static partial Regex Address();
}
