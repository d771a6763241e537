using System.Text.Json.Serialization;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Checks;

/// <summary>One line of a live check.</summary>
/// <param name="Kind"><c>identity</c>, <c>api</c> or <c>pull</c>.</param>
/// <param name="Step">What was looked at.</param>
/// <param name="Says">What was found.</param>
public sealed record LiveLine(
    string Kind, string Name, string Step, [property: JsonPropertyName("state")] LiveVerdict Verdict, string Says, string? NextStep = null)
{
    /// <summary>The refusal that the line tells; null for none.</summary>
    [JsonIgnore]
    public Refusal? Refusal { get; init; }

    /// <summary>The permission that the line finds missing in a token; null for none.</summary>
    [JsonIgnore]
    public string? Lacks { get; init; }

    /// <summary>Whether the failure may go away without a change of the job or its secrets.</summary>
    [JsonIgnore]
    public bool MayPass => Lacks is not null || (Refusal is { } refusal && Remedies.MayPass(refusal));

    /// <summary>The line of a refusal: what happened, the other side's words, and the cause.</summary>
    public static LiveLine Of(string kind, string name, string step, Refusal refusal) => new(
        kind,
        name,
        refusal.Step ?? step,
        LiveVerdict.Failed,
        string.Join(
            "; ", new[] { refusal.What, refusal.Quote is null ? null : $"it said: {refusal.Quote}", refusal.Cause }.OfType<string>()),
        refusal.NextStep)
    { Refusal = refusal };
}
