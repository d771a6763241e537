using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Whether an answer with a status of success is a failure nevertheless.</summary>
internal static class FailRules
{
    /// <summary>The first rule that an answer fulfils; null when there is none.</summary>
    public static FailRule? Match(IReadOnlyList<FailRule> rules, Answer answer)
    {
        try
        {
            foreach (var rule in rules)
            {
                if (Holds(rule, JsonFind.Raw(answer.Body.Content, rule.At)))
                    return rule;
            }
        }
        catch (JsonException)
        {
            // What is not JSON is told by whoever reads it whole.
        }

        return null;
    }

    private static bool Holds(FailRule rule, ReadOnlySpan<byte> raw)
    {
        if (rule.Is != Probe.Anything)
            return JsonFind.TextOf(raw) == rule.Is;
        var trimmed = raw.Trim(" \t\r\n"u8);
        return !(trimmed.IsEmpty
            || trimmed.SequenceEqual("null"u8)
            || trimmed.SequenceEqual("false"u8)
            || trimmed.SequenceEqual("\"\""u8)
            || IsEmptyGroup(trimmed));
    }

    private static bool IsEmptyGroup(ReadOnlySpan<byte> value) =>
        (value[0], value[^1]) is ((byte)'[', (byte)']') or ((byte)'{', (byte)'}') && value[1..^1].Trim(" \t\r\n"u8).IsEmpty;
}
