using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Writes;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Lists what left the machine and what did not.</summary>
internal sealed class LedgerView(IAnsiConsole console, bool json, Advice advice, TimeZoneInfo zone)
{
    private const int MostItems = 20;

    public void Show(IReadOnlyList<LedgerEntry> entries, string empty) =>
        Show([.. entries.Select(entry => (entry, (IReadOnlyList<ItemEntry>)[]))], empty);

    /// <param name="entries">Each with the items that somebody may have to decide about.</param>
    public void Show(IReadOnlyList<(LedgerEntry Entry, IReadOnlyList<ItemEntry> Items)> entries, string empty)
    {
        if (json)
        {
            console.WriteLinesAsIs(
                JsonSerializer.Serialize(
                    [.. entries.Select(pair => LedgerLine.Of(pair.Entry, pair.Items))], CliJson.Default.LedgerLineArray));
            return;
        }

        if (entries.Count == 0)
        {
            console.Say($"{empty}");
            return;
        }

        var table = Tables.Plain("entry", "to", "state", "since", "tries", "said");
        foreach (var (entry, items) in entries)
        {
            table.AddRow(
                Shown.Text(entry.Id), Shown.Text(entry.To), Shown.Text(LedgerWords.Of(entry.Phase), Look(entry.Phase)),
                Shown.Text(Time(entry.At)), Shown.Text(entry.Attempts.ToString(CultureInfo.InvariantCulture)), Shown.Text(
                    entry.Said));
            foreach (var item in items.Take(MostItems))
                table.AddRow(
                    Shown.Text(ItemDecision.NameOf(entry, item)),
                    Shown.Text(StepOf(item)),
                    State(item),
                    Shown.Text(Time(item.At)),
                    Shown.Text(""),
                    Shown.Text(item.Said));
        }

        console.Write(table);
        foreach (var (entry, items) in entries.Where(pair => pair.Items.Count > MostItems))
            console.Say($"{items.Count - MostItems:N0} more items of {entry.Id}: {advice.Of($"cursiva ledger JOB --items {entry.Id}")}");
    }

    /// <summary>All items of one write.</summary>
    public void ShowItems(LedgerEntry entry, IReadOnlyList<ItemEntry> items)
    {
        if (json)
        {
            console.WriteLinesAsIs(
                JsonSerializer.Serialize([.. items.Select(item => ItemLine.Of(entry, item))], CliJson.Default.ItemLineArray));
            return;
        }

        if (items.Count == 0)
        {
            console.Say($"{entry.Id} has no items yet.");
            return;
        }

        var table = Tables.Plain("item", "step", "state", "since", "said");
        foreach (var item in items)
            table.AddRow(
                Shown.Text(ItemDecision.NameOf(entry, item)),
                Shown.Text(item.Step),
                State(item),
                Shown.Text(Time(item.At)),
                Shown.Text(item.Said));
        console.Write(table);
    }

    private static string StepOf(ItemEntry item) => item.Step.Length > 0 ? $"step {item.Step}" : "";

    private static Text State(ItemEntry item) => Shown.Text(WriteWords.Of(item.Phase), Look(item.Phase switch
    {
        ItemPhase.Ready => LedgerPhase.Ready,
        ItemPhase.Sending or ItemPhase.InDoubt => LedgerPhase.InDoubt,
        ItemPhase.Sent or ItemPhase.Removed => LedgerPhase.Sent,
        ItemPhase.Refused => LedgerPhase.Refused,
        ItemPhase.Skipped => LedgerPhase.GivenUp,
    }));

    private string Time(DateTimeOffset at) =>
        TimeZoneInfo.ConvertTime(at, zone).ToString("yyyy-MM-dd HH:mm zzz", CultureInfo.InvariantCulture);

    private static Style Look(LedgerPhase phase) => new(phase switch
    {
        LedgerPhase.Sent => Color.Green,
        LedgerPhase.Ready or LedgerPhase.Sending => Color.Olive,
        LedgerPhase.InDoubt or LedgerPhase.Refused => Color.Maroon,
        LedgerPhase.GivenUp => Color.Grey,
    });
}
