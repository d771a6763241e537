using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Deliveries;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;
using Cursiva.Core.Writes;

namespace Cursiva.Core.Runs;

/// <summary>From a finished landing to written reports.</summary>
internal sealed class ReportStage(Job job, RunRecord run, JobFolder folder, RunOptions options, IRunWatch watch)
{
    private readonly List<string> _warnings = [.. run.Warnings];
    private readonly List<WrittenFile> _files = [];

    /// <summary>Where the reports are written.</summary>
    public string OutFolder => Path.GetFullPath(Path.Combine(job.Folder, job.Out.Fill(RunNames.Of(job, run))));

    /// <summary>The files that were written, also when others could not be.</summary>
    public IReadOnlyList<WrittenFile> Files => _files;

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
            throw new RefusedException(new Refusal(Outcome.ReportFailed, $"the reports' folder cannot be written to: {error.Message}")
            {
                NextStep = $"make {OutFolder} writable for this user, or set out: to another folder",
            }, error);
        }
    }

    /// <summary>Writes every report whose requirements hold. What the job changes elsewhere is changed once the reports hold that do not tell of it.</summary>
    /// <param name="history">What earlier runs brought.</param>
    /// <param name="change">Does what the job's writes say, given the file of items of each, and tells what became of them.</param>
    /// <exception cref="RefusedException">A report could not be written; the others are.</exception>
    public ReportsWritten Write(
        RunLanding landing,
        RunHistory history,
        Func<IReadOnlyDictionary<string,
        string>,
        IReadOnlyList<WrittenRow>> change,
        CancellationToken cancel)
    {
        var totals = ReportTotals.None;
        PullEnds.Require(job, PullEnds.Of(job, landing));
        if (job.Reports.Count == 0 && job.Writes.Count == 0 && !DeliveryExtracts.IsNeeded(job.Deliveries))
            return ReportsWritten.None;

        var spill = Path.Combine(folder.Of(run.Number), "spill");
        options.Disk.CreateFolder(spill);
        CheckSpace(landing, spill);
        using var database = new Database(spill, job.Memory, job.Spill, cancel);
        var tables = Tables(database);
        var (columns, sources) = Stage(database, tables, landing, history, cancel);
        var work = Path.Combine(spill, "report");
        var extracts = Path.Combine(folder.Of(run.Number), "extracts");
        database.Confine(work);
        var context = Context(history, landing, sources);
        var before = new DifferenceFigures(job, database).Without(history.Totals);
        var empty = new EmptyPulls(job, landing, history, database);
        var filesPer = new Dictionary<string, string[]>(StringComparer.Ordinal);
        foreach (var tellsOfWrites in new[] { false, true })
        {
            if (tellsOfWrites && job.Writes.Count > 0)
            {
                if (job.Writes.Select(empty.Objection).OfType<Refusal>().FirstOrDefault() is { } objection)
                    throw new RefusedException(objection);
                WrittenTable.Fill(database, change(new WriteExtracts(database, extracts).Take(job.Writes)));
            }

            WriteReports([.. job.Reports.Where(report => tables.Reads(report, WrittenTable.Name) == tellsOfWrites)]);
        }

        return new ReportsWritten(_files, columns, totals)
        {
            FilesPer = filesPer,
            Extracts = new DeliveryExtracts(database, work, extracts).Take(job.Deliveries),
        };

        void WriteReports(IReadOnlyList<Report> reports)
        {
            var refusals = new List<Refusal>();
            foreach (var report in reports)
            {
                watch.Doing($"writing report '{report.Name}'");
                try
                {
                    if (empty.Objection(report) is { } objection)
                        throw new ReportException(objection, null);
                    var written = FilesOf(report).Write(
                        report,
                        context,
                        OutFolder,
                        RunNames.Of(job, run),
                        folder.RenamesOf(run.Number),
                        before,
                        totals,
                        report.FilePer is null ? [] : [.. history.LastGood?.FilesPer.GetValueOrDefault(report.Name) ?? [], .. run.FilesPer.GetValueOrDefault(report.Name) ?? []],
                        cancel);
                    if (report.FilePer is not null)
                        filesPer[report.Name] = [.. written.Select(file => file.Path)];
                    if (report.FilePer is not null && written.Count == 0)
                        Warn($"report '{report.Name}' has no rows, so it has no files");
                    _files.AddRange(written);
                    foreach (var file in written)
                        watch.Wrote(file);
                }
                catch (ReportException error)
                {
                    refusals.Add(error.Refusal);
                }
            }

            if (refusals.Count > 0)
                throw new RefusedException(Together(refusals));
        }

        ReportFiles FilesOf(Report report) =>
            new(
                options.Disk,
                database,
                work,
                rows => watch.Doing($"writing report '{report.Name}': {rows:N0} rows"),
                gone => watch.Warned($"removed {gone}: report '{report.Name}' no longer has rows for it"));
    }

    private JobTables Tables(Database database)
    {
        try
        {
            return new JobTables(database, job);
        }
        catch (SqlException error)
        {
            throw NoTables(error);
        }
    }

    private static RefusedException NoTables(Exception error) =>
        new(
            new Refusal(Outcome.ReportFailed, $"the tables of the reports cannot be made: {error.Message}") { NextStep = "correct the job and write the reports with cursiva report; nothing is fetched again" },
            error);

    // The first one leads; what else failed is told with it.
    private static Refusal Together(List<Refusal> refusals) => refusals.Count == 1
        ? refusals[0]
        : refusals[0] with { What = string.Join("\n", refusals.Select(refusal => refusal.What)) };

    private (Dictionary<string, KnownColumn[]> Columns, List<SourceLine> Sources) Stage(
        Database database, JobTables tables, RunLanding landing, RunHistory history, CancellationToken cancel)
    {
        var columns = new Dictionary<string, KnownColumn[]>(StringComparer.Ordinal);
        var sources = new List<SourceLine>();
        var changes = new List<string>();
        try
        {
            foreach (var pull in job.Pulls)
            {
                var lastSeen = history.LastSeen(pull.Name);
                columns[pull.Name] = StagePull(tables, pull, landing, history, lastSeen, cancel);
                sources.Add(new SourceLine(pull.Name, HostOf(pull), tables.Rows));
                if (lastSeen.Count > 0 && ColumnDrift.Between(lastSeen, columns[pull.Name]) is { Count: > 0 } drift)
                {
                    Warn($"the columns of pull '{pull.Name}' have changed since the last run: {string.Join("; ", drift)}");
                    if (pull.RequiresSameColumns)
                        changes.Add($"'{pull.Name}': {string.Join("; ", drift)}");
                }
            }

            tables.CreateOthers(job.Pulls.SelectMany(pull => landing.Skipped(pull.Name)), PullEnds.Of(job, landing), Facts(history));
        }
        catch (QueryException error)
        {
            throw new RefusedException(
                new Refusal(Outcome.ReportFailed, $"{error.Place}: the SQL of view '{error.Query.Name}' failed: {error.Message}") { Cause = error.Columns, NextStep = "correct the SQL, and write the reports with cursiva report; nothing is fetched again" },
                error);
        }
        catch (Exception error) when (error is TableException or SqlException)
        {
            throw NoTables(error);
        }

        if (changes.Count > 0)
        {
            throw new RefusedException(new Refusal(Outcome.ReportFailed, $"the columns differ from those of the last good run, and the job requires the same ones: {string.Join("; ", changes)}")
            {
                Cause = "the API has changed; the files of the last good run are unchanged",
                NextStep = "check the change; if it is right, remove same-columns from require:, and write the reports with cursiva report",
            });
        }

        return (columns, sources);
    }

    private KnownColumn[] StagePull(
        JobTables tables, Pull pull, RunLanding landing, RunHistory history, IReadOnlyList<KnownColumn> lastSeen, CancellationToken cancel)
    {
        var earlier = history.Earlier(pull);
        var previous = tables.NeedsBefore(pull) ? history.Before(pull) : null;
        try
        {
            IReadOnlyList<LandedRows> rows = [.. earlier.Read(pull.Name), landing.Read(pull.Name)];
            watch.Doing($"reading {rows.Sum(source => source.Count):N0} rows of pull '{pull.Name}'");
            KnownColumn[] columns = [.. tables.Stage(pull, rows, lastSeen, cancel)];
            if (tables.NamesTwice > 0)
                Warn($"pull '{pull.Name}' has rows with a member twice ({tables.NamesTwice} times); SQL sees the last value, and the landing has both");
            foreach (var notice in tables.Notices)
                Warn(notice);
            if (columns.Length == 0)
                Warn($"pull '{pull.Name}' returned no rows, and its columns are not known yet; declare columns: so that reports have them from the first run");
            if (tables.NeedsBefore(pull))
            {
                if (previous is null && history.LastGood is { } before)
                    Warn($"the rows of pull '{pull.Name}' in run {before.Number} were removed, so there is nothing to compare with");
                tables.StageBefore(pull, previous?.Read(pull.Name), cancel);
            }

            return columns;
        }
        finally
        {
            foreach (var chain in new[] { earlier, previous ?? LandingChain.None })
                chain.DisposeAsync().AsTask().GetAwaiter().GetResult();
        }
    }

    private void CheckSpace(RunLanding landing, string spill)
    {
        var bytes = job.Pulls.Sum(pull => landing.BytesOf(pull.Name));
        if (DiskSpace.Lacking(bytes, job.Memory, options.Disk.FreeBytes(spill), spill) is { } lacking)
            throw new RefusedException(lacking);
        if (job.Reports.Count > 0 && options.Disk.FreeBytes(OutFolder) is var left && left < bytes)
            watch.Warned($"{DiskSpace.Megabytes(left)} are free for the reports, but the rows take {DiskSpace.Megabytes(bytes)}; a report with all of them may not fit");
    }

    private ReportContext Context(RunHistory history, RunLanding landing, IReadOnlyList<SourceLine> sources) => new(
        job.Title,
        run.Number,
        TimeZoneInfo.ConvertTime(run.StartedAt, job.Zone),
        job.Zone,
        typeof(ReportStage).Assembly.GetName().Version!.ToString(3),
        sources,
        [.. job.Pulls.SelectMany(pull => landing.SkipReasons(pull.Name)).Select(reason => new SkippedLine(reason.Pull, reason.Because, reason.Strands, [.. reason.First.Select(strand => StrandValues.Parse(strand.Values).ToString())]))],
        _warnings,
        [.. PullEnds.Of(job, landing).Where(end => !end.Proven).Select(end => $"{end.Pull} ({end.Ended})")],
        history.LastGood?.Number,
        history.LastGood is { } previous
            ? Since(TimeZoneInfo.ConvertTime(previous.StartedAt, job.Zone), TimeZoneInfo.ConvertTime(run.StartedAt, job.Zone))
            : null);

    // Of a run earlier on the same day the time tells more than the day.
    private static string Since(DateTimeOffset before, DateTimeOffset now) =>
        before.ToString(before.Date == now.Date ? "HH:mm" : "d MMMM yyyy", CultureInfo.InvariantCulture);

    private RunFacts Facts(RunHistory history) => new(
        run.Number,
        run.StartedAt,
        run.LandedAt ?? run.StartedAt,
        JsonSerializer.Serialize(
            job.Inputs.ToDictionary(input => input.Name, input => input.Value), RunRecordJson.Default.DictionaryStringString),
        history.LastGood?.Number,
        history.LastGood?.StartedAt);

    // Where strands fill the address in, the API's name tells more than a template.
    private string HostOf(Pull pull) =>
        job.Apis.TryGetValue(pull.Api, out var api) && !job.Strands.Apis.ContainsKey(pull.Api)
            ? api.TokenBase ?? api.Base.Authority
            : pull.Api;

    private void Warn(string what)
    {
        _warnings.Add(what);
        watch.Warned(what);
    }
}
