using System.Text;
using System.Text.Json;
using Cursiva.Core.Deliveries;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;
using Cursiva.Core.Writes;

namespace Cursiva.Core.Runs;

/// <summary>Shows what would leave the machine, message by message and request by request, in files of a folder; sends nothing.</summary>
public sealed class LeavingAhead(Job job, RunOptions options, IRunWatch watch)
{
    /// <summary>Writes down what would leave after the newest run whose rows are all landed.</summary>
    /// <param name="into">The folder, which is made new.</param>
    /// <param name="asks">Whether looks are taken; otherwise no request is made.</param>
    /// <returns>The run, and what would leave of it, one line each; null where there is no such run, or nothing leaves.</returns>
    /// <exception cref="RefusedException">SQL fails, or the job is running.</exception>
    public async Task<LeavingAccount?> LookAsync(string into, bool asks, CancellationToken cancel)
    {
        if (job.Deliveries.Count + job.Writes.Count == 0)
            return null;
        await using var scope = await RunScope.OpenAsync(job, options, cancel);
        if (scope.Runs.Records.LastOrDefault(run => run.LandedAt is not null) is not { } run)
            return null;
        await scope.Landings.BringForAsync(job, scope.Runs.Records, run.Number, cancel);
        Clear(into);
        var there = job with { Out = Template.OfLiteral(Path.Combine(into, "reports")) };
        var stage = new ReportStage(there, run, scope.Folder, options, watch);
        stage.CheckFolder();
        var history = new RunHistory(scope.Runs.Records, () => run, scope.Folder, options);
        await using var landing = new RunLanding(options.Disk, scope.Folder.LandingOf(run.Number), options.Clock);
        IReadOnlyDictionary<string, string> items = new Dictionary<string, string>();
        IReadOnlyList<WrittenRow> Keep(IReadOnlyDictionary<string, string> extracts)
        {
            items = extracts;
            return [];
        }

        var written = await Task.Run(() => stage.Write(landing, history, Keep, cancel), cancel);
        await using var ahead = new DeliveryStage(there, scope, options, watch);
        var lines = new List<LeavingLine>();
        foreach (var write in job.Writes.Where(write => items.ContainsKey(write.Name)))
            lines.Add(
                await ahead.PlanAsync(write, run, items[write.Name], Path.Combine(into, "writes", write.Name + ".jsonl"), asks, cancel));
        lines.AddRange(await ahead.ComposeAsync(run, stage.OutFolder, written, Path.Combine(into, "deliveries"), cancel));
        return new LeavingAccount(run.Number, lines);
    }

    // Nothing goes that an earlier look did not put there.
    private static void Clear(string into)
    {
        string[] own = ["reports", "writes", "deliveries"];
        if (File.Exists(into)
            || (Directory.Exists(into) && Directory.GetFileSystemEntries(into).Any(entry => !own.Contains(Path.GetFileName(entry)))))
        {
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"{into} contains other files")
            {
                NextStep = "name a folder that does not exist yet with --show-in",
            });
        }

        if (Directory.Exists(into))
            Directory.Delete(into, recursive: true);
    }
}
