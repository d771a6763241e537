using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Writes;

/// <summary>Takes the items of writes out of the database of a run.</summary>
/// <param name="folder">Takes a file for each write.</param>
public sealed class WriteExtracts(Database database, string folder)
{
    private const int MostTold = 20;

    /// <summary>The file of items of each write, by its name.</summary>
    /// <exception cref="RefusedException">SQL of a write fails, or its key does not tell items apart.</exception>
    public IReadOnlyDictionary<string, string> Take(IReadOnlyList<Write> writes)
    {
        var files = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var write in writes)
        {
            Directory.CreateDirectory(folder);
            files[write.Name] = Path.Combine(folder, write.Name + ".items");
            try
            {
                Take(write, files[write.Name]);
            }
            catch (SqlException error)
            {
                throw new RefusedException(new Refusal(
                    Outcome.ReportFailed, $"{write.Sql.At(error.Position)}: the SQL of write '{write.Name}' failed: {error.Message}")
                {
                    NextStep = "correct the SQL, and write the reports with cursiva report; nothing is fetched again",
                }, error);
            }
        }

        return files;
    }

    private void Take(Write write, string path)
    {
        var sql = write.Sql.Text.Trim().TrimEnd(';');
        var columns = ResultColumn.Describe(database, sql);
        var keys = write.Key.Select(name => columns.ToList().FindIndex(column => column.Name == name)).ToList();
        if (keys.IndexOf(-1) is >= 0 and var missing)
            throw Refuse(
                write,
                $"has no column '{write.Key[missing]}', listed in key:; it has {string.Join(", ", columns.Select(column => column.Name))}",
                "name its columns in key:");
        CheckNames(write, columns);
        foreach (var requirement in write.Require)
            Check(write, requirement, sql, columns);
        var declared = DeclarationOf(write);
        var seen = new HashSet<UInt128>();
        using var rows = database.Query(ResultColumn.AsText(columns, sql));
        using var file = new StreamWriter(path);
        while (rows.Read())
        {
            var key = $"[{string.Join(',', keys.Select(place => Json(rows, columns, place)))}]";
            if (keys.Any(rows.IsNull))
                throw Refuse(write, $"has a row without a value in {string.Join(", ", write.Key)}", "exclude such rows with where");
            if (!seen.Add(System.IO.Hashing.XxHash128.HashToUInt128(Encoding.UTF8.GetBytes(key))))
                throw Refuse(
                    write, $"has two rows with the key {WriteItem.TitleOf(key)}", "add a column to key:, or exclude one of them");
            var values = columns.Index().ToDictionary(
                column => $"{Write.Row}.{column.Item.Name}", column => Json(rows, columns, column.Index), StringComparer.Ordinal);
            file.WriteLine(JsonSerializer.Serialize(new WriteItem(key, DigestOf(declared, values), values), WriteJson.Default.WriteItem));
        }
    }

    // Every item that breaks it is told by its key; a condition that is null does not hold.
    private void Check(Write write, ItemRequirement requirement, string sql, IReadOnlyList<ResultColumn> columns)
    {
        var broken = new List<string>();
        try
        {
            var names = string.Join(", ", write.Key.Select(name => $"\"{name.Replace("\"", "\"\"")}\""));
            var rows =
                $"select {names} from (select *, ({requirement.Condition}) as \"cursiva holds\" from ({sql})) where \"cursiva holds\" is not true";
            using var found = database.Query(ResultColumn.AsText(ResultColumn.Describe(database, rows), rows));
            while (found.Read())
                broken.Add(
                    string.Join(
                        ", ",
                        write.Key.Select(
                            (_, place) => found.IsNull(place) ? "null" : OneLine.Of(Encoding.UTF8.GetString(found.Value(place))))));
        }
        catch (SqlException error)
        {
            throw new RefusedException(new Refusal(
                Outcome.ReportFailed,
                $"{requirement.Place}: the condition '{requirement.Name}' of write '{write.Name}' failed: {error.Message}")
            {
                NextStep =
                    $"write a condition over the columns of sql: {string.Join(", ", columns.Select(column => column.Name))}; nothing is fetched again by cursiva report",
            }, error);
        }

        if (broken.Count == 0)
            return;
        throw new RefusedException(new Refusal(
            Outcome.ReportFailed,
            $"write '{write.Name}' sent nothing, since a condition failed: {requirement.Name}; it does not hold for {string.Join("; ", broken.Distinct(StringComparer.Ordinal).Take(MostTold))}{(broken.Count > MostTold ? " and others" : "")}")
        {
            Cause = $"{broken.Count} {(broken.Count == 1 ? "item does" : "items do")} not meet {requirement.Condition}",
            NextStep =
                $"check them; correct the rows, or the condition at {requirement.Place}, and write the reports again with cursiva report; nothing is fetched again",
        });
    }

    private static void CheckNames(Write write, IReadOnlyList<ResultColumn> columns)
    {
        var unknown = write.Steps.Concat(write.Remove).SelectMany(step => step.Names).Select(name => ValueEscape.Split(name).Name)
            .FirstOrDefault(
                name => name.StartsWith(Write.Row + ".", StringComparison.Ordinal)
                    && !columns.Any(column => column.Name == name[(Write.Row.Length + 1)..]));
        if (unknown is not null)
            throw Refuse(
                write,
                $"has no column for {{{unknown}}}; it has {string.Join(", ", columns.Select(column => column.Name))}",
                "use one of its columns");
    }

    private static string Json(TextRows rows, IReadOnlyList<ResultColumn> columns, int place) =>
        rows.IsNull(place) ? "null" : columns[place].IsBare ? Encoding.UTF8.GetString(rows.Value(place)) : JsonSerializer.Serialize(
            Encoding.UTF8.GetString(rows.Value(place)), PlainJson.Default.String);

    private static string DigestOf(string declared, Dictionary<string, string> values) =>
        Convert.ToHexStringLower(
            SHA256.HashData(
                Encoding.UTF8.GetBytes(
                    DeclarationKey.Of(
                    [
                        declared,
                        .. values.OrderBy(pair => pair.Key, StringComparer.Ordinal).SelectMany(pair => new[] { pair.Key, pair.Value }),
                    ]))));

    // What the steps would send changes with them, too.
    private static string DeclarationOf(Write write) =>
        DeclarationKey.Of(
            [.. write.Steps.SelectMany(
                step => new[] { step.Name, step.Method.ToString(), step.Path, step.Body?.AsWritten()?.ToJsonString(), step.Text?.Text }.Concat(step.Query.Concat(step.Headers).SelectMany(pair => new[] { pair.Key, pair.Value.Written })))]);

    private static RefusedException Refuse(Write write, string what, string right) =>
        new(new Refusal(Outcome.ReportFailed, $"{write.Sql.Place}: the SQL of write '{write.Name}' {what}")
        {
            NextStep = $"{right}; then write the reports with cursiva report; nothing is fetched again",
        });
}
