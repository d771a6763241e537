using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Deliveries;
using Cursiva.Core.Ledger;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Lists what left the machine and what did not.</summary>
internal static class LedgerView
{
    public static void Show(IAnsiConsole console, bool json, IReadOnlyList<LedgerEntry> entries, TimeZoneInfo zone, string empty)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize([.. entries.Select(LedgerLine.Of)], CliJson.Default.LedgerLineArray));
            return;
        }

        if (entries.Count == 0)
        {
            console.Say($"{empty}");
            return;
        }

        var table = Tables.Plain("entry", "to", "state", "since", "tries", "said");
        foreach (var entry in entries)
        {
            var colour = entry.Phase switch
            {
                LedgerPhase.Sent => Color.Green,
                LedgerPhase.Ready or LedgerPhase.Sending => Color.Olive,
                LedgerPhase.InDoubt or LedgerPhase.Refused => Color.Maroon,
                LedgerPhase.GivenUp => Color.Grey,
            };
            table.AddRow(
                Shown.Text(entry.Id), Shown.Text(entry.To), Shown.Text(LedgerWords.Of(entry.Phase), new Style(colour)),
                Shown.Text(TimeZoneInfo.ConvertTime(entry.At, zone).ToString("yyyy-MM-dd HH:mm zzz", CultureInfo.InvariantCulture)), Shown.Text(entry.Attempts.ToString(CultureInfo.InvariantCulture)), Shown.Text(entry.Said));
        }

        console.Write(table);
    }
}
