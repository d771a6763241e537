using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>Whether a refusal is one that the job allows.</summary>
internal static class SkipRules
{
    /// <summary>The first rule that an answer fulfils; null when there is none.</summary>
    public static SkipRule? Match(IReadOnlyList<SkipRule> rules, Answer answer)
    {
        foreach (var rule in rules)
        {
            if (rule.Status == answer.Status && (rule.At is null || Holds(rule, answer)))
                return rule;
        }

        return null;
    }

    /// <summary>The first rule that a refused sign-in fulfils; null when there is none.</summary>
    public static SkipRule? Match(IReadOnlyList<SkipRule> rules, Refusal refusal) =>
        refusal.Outcome != Outcome.SignInRefused ? null
        : rules.FirstOrDefault(
            rule => rule.SignIn is { } error
                && (error == Probe.Anything || $"{refusal.Quote} {refusal.What}".Contains(error, StringComparison.Ordinal)));

    private static bool Holds(SkipRule rule, Answer answer)
    {
        try
        {
            return JsonFind.Holds(answer.Body.Content, rule.At!, rule.Is);
        }
        catch (System.Text.Json.JsonException)
        {
            return false;
        }
    }
}
