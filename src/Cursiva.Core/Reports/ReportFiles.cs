using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Writes the files of one report; they appear together, or none does.</summary>
public sealed class ReportFiles(IDisk disk, Database database)
{
    /// <summary>Runs the report's SQL once and writes every file of the report from it.</summary>
    /// <param name="folder">Where relative paths start.</param>
    /// <param name="fill">Gives the names of the run for file names.</param>
    /// <param name="listPath">Where the renames are noted; see <see cref="FileSet"/>.</param>
    /// <exception cref="RefusedException">The SQL fails, or a file cannot be written. Nothing was changed under a final name.</exception>
    public IReadOnlyList<WrittenFile> Write(Report report, string folder, Func<string, string?> fill, string listPath, CancellationToken cancel)
    {
        var set = new FileSet(disk, listPath);
        List<(string Path, DiskStream Stream)> files = [];
        try
        {
            foreach (var template in report.Write)
            {
                var path = Path.Combine(folder, template.Fill(fill));
                files.Add((path, set.Begin(path)));
            }

            var rows = WriteRows(report, files, cancel);
            List<WrittenFile> written = [.. files.Select(file => new WrittenFile(report.Name, file.Path, file.Stream.Length, rows))];
            foreach (var (_, stream) in files)
            {
                stream.Flush();
                stream.Dispose();
            }

            set.Publish();
            return written;
        }
        catch (Exception error)
        {
            files.ForEach(file => file.Stream.Dispose());
            set.Abandon();
            throw error switch
            {
                SqlException sql => new RefusedException(new Refusal(Outcome.ReportFailed, $"{SqlPlace.Of(report, sql.Position)}: the SQL of report '{report.Name}' failed: {sql.Message}")
                {
                    NextStep = "correct the SQL and run again",
                }, error),
                TableException table => new RefusedException(new Refusal(Outcome.ReportFailed, $"report '{report.Name}' cannot be written as it is: {table.Message}"), error),
                IOException or UnauthorizedAccessException => new RefusedException(new Refusal(Outcome.ReportFailed, $"report '{report.Name}' cannot be written: {error.Message}")
                {
                    Cause = "the folder is not writable for this user, or the disk is full",
                    NextStep = $"make {folder} writable, or set out: to another folder, and run again: the landed rows are kept",
                }, error),
                _ => error,
            };
        }
    }

    private long WriteRows(Report report, List<(string Path, DiskStream Stream)> files, CancellationToken cancel)
    {
        var (columns, asText) = ResultColumn.Describe(database, report.Sql);
        List<IRowWriter> writers = [.. files.Select(file => For(file.Path, file.Stream))];
        writers.ForEach(writer => writer.Begin(columns));
        long count = 0;
        using (var rows = database.Query(asText))
        {
            while (rows.Read())
            {
                if ((++count & 0xFFF) == 0)
                    cancel.ThrowIfCancellationRequested();
                foreach (var writer in writers)
                    writer.Row(rows);
            }
        }

        writers.ForEach(writer => writer.End());
        return count;
    }

    private static IRowWriter For(string path, Stream stream) =>
        path.EndsWith(".jsonl", StringComparison.OrdinalIgnoreCase) ? new JsonLinesWriter(stream) : new CsvWriter(stream);
}
