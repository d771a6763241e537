using System.Globalization;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Finds what does not hold of a part's rows.</summary>
internal sealed class RequirementCheck(Database database)
{
    /// <param name="rowsBefore">The rows of the part in the last good run; null when they are not known.</param>
    /// <returns>What does not hold, each as a phrase.</returns>
    /// <exception cref="TableException">A column that is named is not there, or has no numbers.</exception>
    public IEnumerable<string> Failures(PartSource source, long? rowsBefore)
    {
        var require = source.Part.Require;
        foreach (var column in require.NoNulls.Concat(require.Unique).Concat(require.Within.Select(range => range.Column)))
        {
            if (!source.Columns.Any(known => known.Name.Equals(column, StringComparison.OrdinalIgnoreCase)))
                throw new TableException(
                    $"require: names the column '{column}', but the rows have {string.Join(", ", source.Columns.Select(known => known.Name))}");
        }

        var rows = Count($"select count(*)::varchar from ({source.Sql})");
        if (require.AtLeast is { } least && rows < least)
            yield return $"{rows} rows, at least {least} are required";
        if (require.AtMost is { } most && rows > most)
            yield return $"{rows} rows, at most {most} are allowed";
        if (require.RowsChange is { } share && rowsBefore is { } before && Math.Abs(rows - before) > share * before)
            yield return $"{rows} rows, while the last good run had {before}: a change of {(before == 0 ? "all of them" : (Math.Abs(rows - before) * 100.0 / before).ToString("0.#", CultureInfo.InvariantCulture) + "%")}, and {(share * 100).ToString("0.#", CultureInfo.InvariantCulture)}% is allowed";
        foreach (var column in require.NoNulls)
        {
            if (Count($"select count(*)::varchar from ({source.Sql}) where {Database.Quoted(column)} is null") is > 0 and var nulls)
                yield return $"column '{column}' has no value in {nulls} of {rows} rows";
        }

        if (require.Unique.Count > 0)
        {
            var key = string.Join(", ", require.Unique.Select(Database.Quoted));
            var twice = database.All(
                $"select array_to_string([{string.Join(", ", require.Unique.Select(column => $"coalesce({Database.Quoted(column)}::varchar, 'null')"))}], ', '), count(*)::varchar from ({source.Sql}) group by {key} having count(*) > 1 order by count(*) desc, 1 limit 1");
            if (twice.Count > 0)
                yield return $"{string.Join(", ", require.Unique)} is not unique: {twice[0][0]} occurs {twice[0][1]} times";
        }

        foreach (var (column, lowest, highest) in require.Within)
        {
            if (!source.Columns.First(known => known.Name.Equals(column, StringComparison.OrdinalIgnoreCase)).IsNumber)
                throw new TableException($"require: sets bounds for the column '{column}', which has no numbers");
            var (name, low, high) = (
                Database.Quoted(column), lowest.ToString(CultureInfo.InvariantCulture), highest.ToString(CultureInfo.InvariantCulture));
            var beyond = database.All(
                $"select count(*)::varchar, min({name})::varchar, max({name})::varchar from ({source.Sql}) where {name} < {low} or {name} > {high}")[0];
            if (beyond[0] != "0")
                yield return $"column '{column}' is outside {low} to {high} in {beyond[0]} of {rows} rows, from {beyond[1]} to {beyond[2]}";
        }
    }

    private long Count(string sql) => long.Parse(database.All(sql)[0][0]!, CultureInfo.InvariantCulture);
}
