using Cursiva.Core.Operations;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows what a state folder has, and whether it is as it was written.</summary>
internal static class StateView
{
    public static void Show(IAnsiConsole console, StateSizes sizes)
    {
        var pairs = new Pairs();
        pairs.Add("folder", sizes.Folder);
        pairs.Add("format", $"{sizes.Format}");
        pairs.Add("database", SummaryView.Size(sizes.DatabaseBytes));
        pairs.Add("kept secrets", $"{sizes.Secrets:N0}; their key is {sizes.Key}");
        pairs.Write(console);
        if (sizes.Jobs.Count == 0)
            return;
        var table = new FittedTable(
            ("job", false, 0), ("runs", true, 1), ("with rows", true, 1), ("rows take", true, 2), ("all", true, 0), ("file", false, 3));
        foreach (var job in sizes.Jobs)
            table.Add(
                [job.Job, $"{job.Runs:N0}", $"{job.Landings:N0}", SummaryView.Size(job.LandedBytes), SummaryView.Size(job.Bytes), job.Path],
                null);
        table.Write(console);
    }

    public static void Show(IAnsiConsole console, VerifiedState verified)
    {
        foreach (var damage in verified.Damage)
            console.WriteLineAsIs($"damaged: {damage}");
        foreach (var left in verified.Left)
            console.WriteLineAsIs($"skipped, its run is under way: {left}");
        console.WriteLineAsIs(
            $"Verified {verified.Pages:N0} {(verified.Pages == 1 ? "page" : "pages")} of {verified.Landings:N0} {(verified.Landings == 1 ? "landing" : "landings")}: {(verified.Damage.Count == 0 ? "all as they were written" : $"{verified.Damage.Count:N0} damaged")}.");
    }
}
