using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Deliveries;

/// <summary>Takes out of the database of a run what its deliveries need besides the files of reports.</summary>
/// <param name="scratchPath">The one file that the SQL engine may write.</param>
/// <param name="folder">Takes the rows of tables.</param>
public sealed class DeliveryExtracts(Database database, string scratchPath, string folder)
{
    /// <summary>Whether any delivery takes something out of the database.</summary>
    public static bool IsNeeded(IEnumerable<Delivery> deliveries) =>
        deliveries.Any(delivery => delivery.Way is TableWay or MailWay { ToSql: not null });

    /// <summary>The extracts of the deliveries that have some, by name.</summary>
    /// <exception cref="RefusedException">SQL of a delivery fails, or its rows cannot go where they are to go.</exception>
    public IReadOnlyDictionary<string, DeliveryExtract> Take(IEnumerable<Delivery> deliveries)
    {
        var extracts = new Dictionary<string, DeliveryExtract>(StringComparer.Ordinal);
        foreach (var delivery in deliveries.Where(delivery => !delivery.TellsOfTrouble))
        {
            if (delivery.Way is TableWay table)
                extracts[delivery.Name] = new DeliveryExtract(Rows(delivery, table), []);
            else if (delivery.Way is MailWay { ToSql: { } sql })
                extracts[delivery.Name] = new DeliveryExtract(null, Recipients(delivery, sql));
        }

        return extracts;
    }

    private TableExtract Rows(Delivery delivery, TableWay way)
    {
        var sql = Text(way.Sql);
        try
        {
            var columns = ResultColumn.Describe(database, sql);
            if (columns.GroupBy(column => column.Name, StringComparer.Ordinal).FirstOrDefault(group => group.Count() > 1) is { } twice)
                throw Refuse(delivery, way.Sql.Place, $"has two columns called '{twice.Key}'", "give each its own name with as");
            if (way.Key.FirstOrDefault(name => !columns.Any(column => column.Name == name)) is { } missing)
                throw Refuse(
                    delivery,
                    way.Sql.Place,
                    $"has no column '{missing}', listed in key:; it has {string.Join(", ", columns.Select(column => column.Name))}",
                    "name its columns in key:");
            database.Execute($"create schema if not exists results; create or replace table results._extract as {sql}");
            if (way.Key.Count > 0)
                CheckKey(delivery, way);
            Directory.CreateDirectory(folder);
            var path = Path.Combine(folder, delivery.Name + ".rows");
            var count = database.Copy(
                AsText(columns), scratchPath, "format csv, header false, quote '\"', escape '\"', force_quote *, nullstr ''");
            File.Move(scratchPath, path, overwrite: true);
            return new TableExtract(
                path, new TableManifest([.. columns.Select(column => new TableColumn(column.Name, TableTypes.Of(column)))], count));
        }
        catch (SqlException error)
        {
            throw Failed(delivery, way.Sql, error);
        }
        finally
        {
            database.Execute("create schema if not exists results; drop table if exists results._extract");
        }
    }

    private void CheckKey(Delivery delivery, TableWay way)
    {
        var key = string.Join(", ", way.Key.Select(Database.Quoted));
        if (database.All(
            $"select 1::varchar from results._extract where {string.Join(" or ", way.Key.Select(column => $"{Database.Quoted(column)} is null"))} limit 1").Count > 0)
            throw Refuse(
                delivery,
                way.Sql.Place,
                $"has rows without a value in {string.Join(", ", way.Key)}, which identifies them",
                "exclude such rows with where");
        if (database.All(
            $"select {string.Join(", ", way.Key.Select(column => $"{Database.Quoted(column)}::varchar"))} from results._extract group by {key} having count(*) > 1 order by all limit 1") is [var twice])
            throw Refuse(
                delivery,
                way.Sql.Place,
                $"has two rows with {string.Join(", ", way.Key.Zip(twice, (name, value) => $"{name} {value}"))}, which key: uses to identify rows",
                "add a column to key:, or exclude one of them");
    }

    private List<KeyValuePair<string?, string>> Recipients(Delivery delivery, SqlSource source)
    {
        try
        {
            var sql = Text(source);
            var columns = ResultColumn.Describe(database, sql);
            var wanted = delivery.IsPerFile ? 2 : 1;
            if (columns.Count != wanted)
                throw Refuse(
                    delivery,
                    source.Place,
                    $"gives {columns.Count} {(columns.Count == 1 ? "column" : "columns")} in to:",
                    delivery.IsPerFile ? "give two: the value of the file, and an address" : "give one: the address");
            return [.. database.All(ResultColumn.AsText(columns, sql))
                .Where(row => row[^1] is not null)
                .Select(row => KeyValuePair.Create(delivery.IsPerFile ? row[0] : null, row[^1]!))
                .Distinct()];
        }
        catch (SqlException error)
        {
            throw Failed(delivery, source, error);
        }
    }

    private static string AsText(IReadOnlyList<ResultColumn> columns)
    {
        var bytes = columns.Index().Where(column => column.Item.SqlType == "BLOB").Select(column => column.Index).ToHashSet();
        var texts = ResultColumn.AsText(columns, "select * from results._extract");
        return bytes.Count == 0
            ? texts
            : $"select {string.Join(", ", columns.Select((_, place) => bytes.Contains(place) ? $"'\\x' || lower(hex(from_base64(t{place}))) as t{place}" : $"t{place}"))} from ({texts}) as q({string.Join(", ", columns.Select((_, place) => $"t{place}"))})";
    }

    private static string Text(SqlSource sql) => sql.Text.Trim().TrimEnd(';');

    private static RefusedException Failed(Delivery delivery, SqlSource sql, SqlException error) =>
        new(new Refusal(Outcome.ReportFailed, $"{sql.At(error.Position)}: the SQL of delivery '{delivery.Name}' failed: {error.Message}")
        {
            NextStep = "correct the SQL, and write the reports with cursiva report; nothing is fetched again",
        }, error);

    private static RefusedException Refuse(Delivery delivery, Place place, string what, string right) =>
        new(new Refusal(Outcome.ReportFailed, $"{place}: the SQL of delivery '{delivery.Name}' {what}")
        {
            NextStep = $"{right}; then write the reports with cursiva report; nothing is fetched again",
        });
}
