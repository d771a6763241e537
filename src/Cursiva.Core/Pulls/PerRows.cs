using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Lands the rows of a list, a CSV file or a query that a pull is repeated for, so that a resumed run repeats it for
/// the same rows, whatever has become of the file.
/// </summary>
internal sealed class PerRows(PullServices services)
{
    /// <summary>The field of a row that was a mere text.</summary>
    public const string TextField = "value";

    private const int RowsAPage = 1000;

    /// <summary>Lands the rows, unless that is done already.</summary>
    /// <param name="earlier">The pulls that a query may read.</param>
    /// <exception cref="RefusedException">The file or query gives no rows.</exception>
    public void Land(Pull pull, PullLanding landing, IEnumerable<Pull> earlier, CancellationToken cancel)
    {
        if (landing.Last(StrandKey.Only) is { Next: null })
            return;
        var lines = new StringBuilder();
        var rows = 0;
        foreach (var row in Rows(pull, earlier, cancel))
        {
            lines.Append(row.ToJsonString()).Append('\n');
            if (++rows % RowsAPage == 0)
            {
                landing.Append(StrandKey.Only, Encoding.UTF8.GetBytes(lines.ToString()), RowsAPage, "more", isPiece: true);
                lines.Clear();
            }
        }

        landing.Append(StrandKey.Only, Encoding.UTF8.GetBytes(lines.ToString()), rows % RowsAPage, null);
    }

    private IEnumerable<JsonObject> Rows(Pull pull, IEnumerable<Pull> earlier, CancellationToken cancel) => pull.Per switch
    {
        { List: { } list } => list.Select(item => item is JsonObject row ? row : new JsonObject { [TextField] = item?.DeepClone() }),
        { File: { } file } => OfFile(pull, file),
        { Sql: { } sql } => OfQuery(pull, sql, earlier, cancel),
        _ => [],
    };

    private IEnumerable<JsonObject> OfFile(Pull pull, string file)
    {
        var path = Path.Combine(services.Job.Folder, file);
        if (!File.Exists(path))
            throw Wrong(
                $"the file that pull '{pull.Name}' is repeated for does not exist: {path}",
                "write a path relative to the job file's folder");
        using var reader = new StreamReader(path, new UTF8Encoding(false, throwOnInvalidBytes: true));
        using var rows = CsvRows.Read(reader).GetEnumerator();
        while (Next(pull, path, rows))
            yield return rows.Current;
    }

    private static bool Next(Pull pull, string path, IEnumerator<JsonObject> rows)
    {
        try
        {
            return rows.MoveNext();
        }
        catch (Exception error) when (error is PageException or DecoderFallbackException or CsvHelper.CsvHelperException)
        {
            throw Wrong(
                $"the file that pull '{pull.Name}' is repeated for cannot be read: {path}: {(error is PageException ? error.Message : error is DecoderFallbackException ? "it is not UTF-8" : "it is not CSV, or a field is larger than 1 MiB")}",
                "write CSV in UTF-8, with a header and the same number of fields on every line");
        }
    }

    private List<JsonObject> OfQuery(Pull pull, string sql, IEnumerable<Pull> earlier, CancellationToken cancel)
    {
        var spill = Path.Combine(services.OddFolder, "spill");
        services.Disk.CreateFolder(spill);
        using var database = new Database(spill, 512L * 1024 * 1024, services.Job.Spill, cancel);
        try
        {
            var table = new PullTable(database);
            foreach (var read in earlier)
                Stage(table, read, cancel);
            database.Confine();
            SqlText.Read(database, sql);
            var columns = ResultColumn.Describe(database, sql);
            return [.. database.All(ResultColumn.AsText(columns, sql)).Select(
                row => new JsonObject(
                    columns.Zip(
                        row,
                        (column, value) => KeyValuePair.Create<string, JsonNode?>(
                            column.Name, value is null ? null : JsonValue.Create(value)))))];
        }
        catch (Exception error) when (error is SqlException or TableException)
        {
            throw Wrong(
                $"the query that pull '{pull.Name}' is repeated for is wrong: {error.Message}",
                "write one SELECT over pulls above");
        }
    }

    // What reports will see: the newest state over all runs, where a pull asks for what is new alone.
    private void Stage(PullTable table, Pull pull, CancellationToken cancel)
    {
        var before = services.Past.Earlier(pull);
        try
        {
            table.Stage(pull, [.. before.Read(pull.Name), services.Landing.Read(pull.Name)], services.Past.LastSeen(pull.Name), cancel);
        }
        finally
        {
            before.DisposeAsync().AsTask().GetAwaiter().GetResult();
        }
    }

    private static RefusedException Wrong(string what, string next) => new(new Refusal(Outcome.JobFileWrong, what) { NextStep = next });
}
