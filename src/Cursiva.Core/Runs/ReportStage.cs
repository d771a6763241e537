using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>From a finished landing to written reports.</summary>
internal sealed class ReportStage(Job job, RunRecord run, JobFolder folder, RunOptions options, IRunWatch watch)
{
    private string OutFolder => Path.GetFullPath(Path.Combine(job.Folder, job.Out.Fill(RunNames.Of(job, run))));

    /// <summary>Finds out, before any request is made, whether the reports will have a place.</summary>
    /// <exception cref="RefusedException">The folder of the reports cannot be written.</exception>
    public void CheckFolder()
    {
        if (job.Reports.Count == 0)
            return;
        try
        {
            options.Disk.CreateFolder(OutFolder, shared: true);
            var probe = Path.Combine(OutFolder, ".cursiva-probe.part");
            options.Disk.Open(probe, shared: true).Dispose();
            options.Disk.Delete(probe);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(new Refusal(Outcome.ReportFailed, $"the folder of the reports cannot be written: {error.Message}")
            {
                NextStep = $"make {OutFolder} writable for this user, or set out: to another folder",
            }, error);
        }
    }

    /// <summary>Writes every report.</summary>
    /// <param name="lastSeen">The columns of earlier runs, by pull.</param>
    /// <returns>The files, and the columns found.</returns>
    /// <exception cref="RefusedException">A report cannot be written.</exception>
    public (IReadOnlyList<WrittenFile> Files, Dictionary<string, KnownColumn[]> Columns) Write(RunLanding landing, IReadOnlyDictionary<string, KnownColumn[]> lastSeen, CancellationToken cancel)
    {
        var files = new List<WrittenFile>();
        if (job.Reports.Count == 0)
            return (files, []);

        var spill = Path.Combine(folder.Of(run.Number), "spill");
        options.Disk.CreateFolder(spill);
        using var database = new Database(spill, options.Memory);
        var columns = Stage(database, landing, lastSeen, cancel);
        database.Confine();
        var writer = new ReportFiles(options.Disk, database);
        foreach (var report in job.Reports)
        {
            watch.Doing($"writing report '{report.Name}'");
            var written = writer.Write(report, OutFolder, RunNames.Of(job, run), folder.RenamesOf(run.Number), cancel);
            files.AddRange(written);
            foreach (var file in written)
                watch.Wrote(file);
        }

        return (files, columns);
    }

    private Dictionary<string, KnownColumn[]> Stage(Database database, RunLanding landing, IReadOnlyDictionary<string, KnownColumn[]> lastSeen, CancellationToken cancel)
    {
        var columns = new Dictionary<string, KnownColumn[]>(StringComparer.Ordinal);
        var table = new PullTable(database);
        foreach (var pull in job.Pulls)
        {
            var rows = landing.Read(pull.Name);
            watch.Doing($"staging {rows.Count} rows of pull '{pull.Name}'");
            try
            {
                columns[pull.Name] = [.. table.Stage(pull, rows, lastSeen.GetValueOrDefault(pull.Name) ?? [], cancel)];
            }
            catch (Exception error) when (error is TableException or SqlException)
            {
                throw new RefusedException(new Refusal(Outcome.ReportFailed, $"the rows of pull '{pull.Name}' cannot become a table: {error.Message}")
                {
                    NextStep = "correct columns: of the pull and run again",
                }, error);
            }

            if (table.NamesTwice > 0)
                watch.Warned($"pull '{pull.Name}' has rows with a name twice ({table.NamesTwice} times); the last value counts in SQL, and the landing has both");
            if (columns[pull.Name].Length == 0)
                watch.Warned($"pull '{pull.Name}' brought no rows, and its columns are not known yet; declare columns: so that reports have them from the first run");
        }

        return columns;
    }
}
