using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Writes the files of one report; they appear together, or none does.</summary>
/// <param name="scratchPath">The one file that the SQL engine may write; it is removed again.</param>
/// <param name="removed">Is told of files of an earlier run that no row stands for any more.</param>
/// <param name="told">Is told how many rows of a part are written, now and then.</param>
public sealed class ReportFiles(IDisk disk, Database database, string scratchPath, Action<long> told, Action<string> removed)
{
    private const int TellEvery = 1_000_000;

    /// <summary>Finds what does not hold of a report, runs its SQL and writes every file of it.</summary>
    /// <param name="folder">Where relative paths start.</param>
    /// <param name="fill">Gives the names of the run for file names and words.</param>
    /// <param name="listPath">Where the renames are noted; see <see cref="FileSet"/>.</param>
    /// <param name="before">What the last good run had.</param>
    /// <param name="now">Takes what this run has.</param>
    /// <param name="ofBefore">The files of the last good run, for a report with a file for each value: those that this run does not have
    /// go.</param>
    /// <exception cref="ReportException">The report cannot be written. Nothing was changed under a final name.</exception>
    public IReadOnlyList<WrittenFile> Write(
        Report report,
        ReportContext context,
        string folder,
        Func<string,
        string?> fill,
        string listPath,
        ReportTotals before,
        ReportTotals now,
        IReadOnlyList<string> ofBefore,
        CancellationToken cancel)
    {
        var set = new FileSet(disk, folder, listPath);
        var written = new List<WrittenFile>();
        try
        {
            var sources = Sources(report, before);
            foreach (var (value, rows) in Splits(report, sources, folder))
            {
                string? Names(string name) => name == report.FilePer ? FileName(value) : fill(name);
                written.AddRange(
                    WriteOnce(report, context, rows, Names, folder, set, before, now, cancel).Select(file => file with { Value = value }));
            }

            foreach (var gone in ofBefore.Distinct(StringComparer.Ordinal)
                .Except(written.Select(file => file.Path), StringComparer.Ordinal)
                .Where(path => path.StartsWith(Path.GetFullPath(folder) + "/", StringComparison.Ordinal) && disk.Exists(path)))
            {
                set.Remove(gone);
                removed(gone);
            }

            set.Publish();
            return written;
        }
        catch (Exception error)
        {
            set.Abandon();
            throw ReportException.Of(error, report, folder) ?? error;
        }
    }

    private List<PartSource> Sources(Report report, ReportTotals before)
    {
        var sources = new List<PartSource>();
        var failures = new List<string>();
        var check = new RequirementCheck(database);
        foreach (var part in report.Parts)
        {
            var isOnly = part == report.OnlyTable;
            var isCopied = isOnly && report.Files.Any(file => file.Format is WrittenFormat { IsByDatabase: true });
            var keep = part.Require.Any || report.FilePer is not null || (isCopied && report.Files.Count > 1);
            try
            {
                var source = PartSource.Of(database, report.Name, part, keep);
                if (part.Require.Any)
                {
                    var name = ReportTotals.NameOf(report.Name, part.Name);
                    failures.AddRange(
                        check.Failures(source, before.Rows.TryGetValue(name, out var rows) ? rows : null).Select(
                            failure => report.Parts.Count == 1 ? failure : $"part '{part.Name}': {failure}"));
                }

                sources.Add(source);
            }
            catch (SqlException error)
            {
                throw new ReportException(ReportException.SqlRefusal(database, report, part, error), error);
            }
        }

        return failures.Count == 0 ? sources : throw new ReportException(ReportException.RequirementRefusal(report, failures), null);
    }

    // One set of files, or one for each value of the file-per column.
    private IEnumerable<(string? Value, IReadOnlyList<PartSource> Sources)> Splits(Report report, List<PartSource> sources, string folder)
    {
        if (report.FilePer is not { } column)
            return [(null, sources)];
        if (!sources[0].Columns.Any(known => known.Name.Equals(column, StringComparison.OrdinalIgnoreCase)))
            throw new TableException(
                $"file-per: names the column '{column}', but the rows have {string.Join(", ", sources[0].Columns.Select(known => known.Name))}");
        var values = database.All($"select distinct {Database.Quoted(column)}::varchar as v from ({sources[0].Sql}) order by v nulls last")
            .ConvertAll(
            row => row[0]);
        foreach (var same in values.GroupBy(value => FileNames.Folded(FileName(value))).Where(group => group.Count() > 1))
        {
            // Names that differ in case are two files, unless the file system says otherwise.
            if (same.Select(FileName).Distinct(StringComparer.Ordinal).Count() == same.Count() && !FileNames.IgnoreCase(disk, folder))
                continue;
            throw new TableException(
                $"the values {string.Join(" and ", same.Take(3).Select(value => $"'{value}'"))} of column '{column}' would have the same file name, {FileName(same.First())}; make them differ in SQL");
        }

        return values.Select(value => (value, (IReadOnlyList<PartSource>)[sources[0].Where(column, value)]));
    }

    private List<WrittenFile> WriteOnce(
        Report report,
        ReportContext context,
        IReadOnlyList<PartSource> sources,
        Func<string,
        string?> fill,
        string folder,
        FileSet set,
        ReportTotals before,
        ReportTotals now,
        CancellationToken cancel)
    {
        var outputs = new List<ReportOutput>();
        var written = new List<WrittenFile>();
        try
        {
            foreach (var file in report.Files)
            {
                var path = Path.Combine(folder, file.Path.Fill(fill));
                var stream = set.Begin(path);
                if (file.Format is not WrittenFormat { IsByDatabase: true })
                {
                    outputs.Add(new ReportOutput(file, path, stream, report, context, scratchPath));
                    continue;
                }

                using (stream)
                {
                    var rows = ParquetFile.Write(database, sources.First(source => source.Part == report.OnlyTable), scratchPath, stream);
                    written.Add(new WrittenFile(report.Name, path, stream.Length, rows));
                    Count(now, report, report.OnlyTable!, rows);
                }
            }

            var shown = outputs.ToDictionary(output => output, _ => 0L);
            foreach (var source in sources)
            {
                List<ReportOutput> takers = [.. outputs.Where(output => output.Shows(report, source.Part))];
                var rows = takers.Count > 0 ? WritePart(report, source, takers, fill, before, now, cancel) : 0;
                foreach (var target in takers.Where(_ => source.Part.IsTable))
                    shown[target] += rows;
            }

            foreach (var output in outputs)
            {
                output.Finish();
                written.Add(new WrittenFile(report.Name, output.Path, output.Bytes, shown[output]));
            }
        }
        finally
        {
            outputs.ForEach(output => output.Dispose());
        }

        return [.. written.OrderBy(
            file => report.Files.ToList().FindIndex(declared => Path.Combine(folder, declared.Path.Fill(fill)) == file.Path))];
    }

    private long WritePart(
        Report report,
        PartSource source,
        List<ReportOutput> takers,
        Func<string,
        string?> fill,
        ReportTotals before,
        ReportTotals now,
        CancellationToken cancel)
    {
        var part = source.Part;
        var name = ReportTotals.NameOf(report.Name, part.Name);
        var words = part.Words?.Fill(fill).Split("\n\n", StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) ?? [];
        var head = new PartHead(part, source.Columns, words, before.Figures.GetValueOrDefault(name));
        takers.ForEach(target => target.Writer.Begin(head));
        long count = 0;
        if (source.Sql is not null)
        {
            using var rows = database.Query(ResultColumn.AsText(source.Columns, source.Sql));
            while (rows.Read())
            {
                if ((++count & 0xFFF) == 0)
                    cancel.ThrowIfCancellationRequested();
                if (count % TellEvery == 0)
                    told(count);
                if (part.Kind == PartKind.Figure)
                    now.Figures[name] = FigureOf(part, rows, count);
                foreach (var target in takers)
                    target.Writer.Row(rows);
            }

            if (part.Kind == PartKind.Figure && count == 0)
                throw new TableException($"the figure '{part.Name}' has no row; its SQL must give one row with one value");
            Count(now, report, part, count);
        }

        takers.ForEach(target => target.Writer.EndPart());
        return count;
    }

    private static void Count(ReportTotals now, Report report, Part part, long rows)
    {
        var name = ReportTotals.NameOf(report.Name, part.Name);
        now.Rows[name] = report.FilePer is null ? rows : now.Rows.GetValueOrDefault(name) + rows;
    }

    private static string? FigureOf(Part part, TextRows rows, long count)
    {
        if (rows.Columns != 1 || count > 1)
            throw new TableException(
                $"the figure '{part.Name}' has {(rows.Columns != 1 ? $"{rows.Columns} columns" : "several rows")}; its SQL must give one row with one value");
        return rows.IsNull(0) ? null : System.Text.Encoding.UTF8.GetString(rows.Value(0));
    }

    private static string FileName(string? value) => FileNames.Of(value ?? "none");
}
