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
    /// <summary>Where the reports are written.</summary>
    public string OutFolder => Path.GetFullPath(Path.Combine(job.Folder, job.Out.Fill(RunNames.Of(job, run))));

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
    /// <param name="history">What earlier runs brought.</param>
    /// <returns>The files, and the columns found.</returns>
    /// <exception cref="RefusedException">A report cannot be written.</exception>
    public (IReadOnlyList<WrittenFile> Files, Dictionary<string, KnownColumn[]> Columns) Write(RunLanding landing, RunHistory history, CancellationToken cancel)
    {
        var files = new List<WrittenFile>();
        if (job.Reports.Count == 0)
            return (files, []);

        var spill = Path.Combine(folder.Of(run.Number), "spill");
        options.Disk.CreateFolder(spill);
        using var database = new Database(spill, options.Memory);
        var columns = Stage(database, landing, history, cancel);
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

    private Dictionary<string, KnownColumn[]> Stage(Database database, RunLanding landing, RunHistory history, CancellationToken cancel)
    {
        var columns = new Dictionary<string, KnownColumn[]>(StringComparer.Ordinal);
        var table = new PullTable(database);
        foreach (var pull in job.Pulls)
        {
            var earlier = history.Landings(pull).ToList();
            try
            {
                IReadOnlyList<LandedRows> sources = [.. earlier.Append(landing).Select(source => source.Read(pull.Name))];
                watch.Doing($"staging {sources.Sum(rows => rows.Count)} rows of pull '{pull.Name}'");
                columns[pull.Name] = [.. table.Stage(pull, sources, history.LastSeen(pull.Name), cancel)];
            }
            catch (Exception error) when (error is TableException or SqlException)
            {
                throw new RefusedException(new Refusal(Outcome.ReportFailed, $"the rows of pull '{pull.Name}' cannot become a table: {error.Message}")
                {
                    NextStep = "correct columns: of the pull and run again",
                }, error);
            }
            finally
            {
                foreach (var source in earlier)
                    source.DisposeAsync().AsTask().GetAwaiter().GetResult();
            }

            if (table.NamesTwice > 0)
                watch.Warned($"pull '{pull.Name}' has rows with a name twice ({table.NamesTwice} times); the last value counts in SQL, and the landing has both");
            if (columns[pull.Name].Length == 0)
                watch.Warned($"pull '{pull.Name}' brought no rows, and its columns are not known yet; declare columns: so that reports have them from the first run");
        }

        SkipsTable.Create(database, [.. job.Pulls.SelectMany(pull => landing.Strands(pull.Name))]);
        return columns;
    }
}
