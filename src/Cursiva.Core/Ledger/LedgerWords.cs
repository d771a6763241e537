using Cursiva.Core.Refusals;

namespace Cursiva.Core.Ledger;

/// <summary>What people are told of the ledger.</summary>
public static class LedgerWords
{
    /// <summary>A phase as people call it.</summary>
    public static string Of(LedgerPhase phase) => phase switch
    {
        LedgerPhase.Ready => "ready",
        LedgerPhase.Sending => "sending",
        LedgerPhase.Sent => "sent",
        LedgerPhase.InDoubt => "in doubt",
        LedgerPhase.Refused => "refused",
        LedgerPhase.GivenUp => "given up",
    };

    /// <summary>What stops a run from being done with, told for people; null where nothing is left to do.</summary>
    public static Refusal? Objection(IReadOnlyList<LedgerEntry> handled)
    {
        List<LedgerEntry> left = [.. handled.Where(entry => entry.Phase is not LedgerPhase.Sent)];
        if (left.Count == 0)
            return null;
        var doubt = left.Find(entry => entry.Phase == LedgerPhase.InDoubt);
        return new Refusal(
            Outcome.DeliveryFailed,
            $"{Count(left)} not been sent: {string.Join("; ", left.Select(entry => $"{entry.Id} is {Of(entry.Phase)}{(entry.Said.Length > 0 ? $" ({entry.Said})" : "")}"))}")
        {
            Cause = "the run itself is done, with its rows and reports",
            NextStep = doubt is not null
                ? $"find out whether {(doubt.IsWrite ? "its items" : "it")} arrived, then decide: cursiva ledger JOB --sent {doubt.Id}, or --again, or --drop{(doubt.IsWrite ? $"; cursiva ledger JOB names the items, and {doubt.Id}/ITEM decides one alone" : "")}"
                : left.Exists(entry => entry.Phase == LedgerPhase.Ready)
                    ? "fix the cause, then send it: cursiva deliver JOB; the next run also sends it"
                    : $"see the answer; to send it again: cursiva ledger JOB --again {left[0].Id}, then cursiva deliver JOB",
        };
    }

    private static string Count(List<LedgerEntry> left)
    {
        var writes = left.Count(entry => entry.IsWrite);
        var parts = new[] { Noun(left.Count - writes, "delivery", "deliveries"), Noun(writes, "write", "writes") }.OfType<string>();
        return $"{string.Join(" and ", parts)} {(left.Count == 1 ? "has" : "have")}";
    }

    private static string? Noun(int count, string one, string several) => count == 0 ? null : $"{count:N0} {(count == 1 ? one : several)}";
}
