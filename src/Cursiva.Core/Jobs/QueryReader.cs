using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the named queries and the comparisons.</summary>
internal sealed class QueryReader(Reading reading, IReadOnlyList<Pull> pulls)
{
    public IReadOnlyList<Query> Queries(SectionReader top)
    {
        var queries = new List<Query>();
        foreach (var (name, place, node) in top.Children(JobKeys.Queries))
        {
            TableNames.Check(reading, name, place, "view", pulls.Select(pull => pull.Name).Concat(queries.Select(query => query.Name)));
            if (new SqlReader(reading).Read(top.File, node) is { } sql)
                queries.Add(new Query(name, place, sql));
            else
                reading.Add(top.File.At(node), $"view '{name}' is not text", "write one SELECT");
        }

        return queries;
    }

    public IReadOnlyList<Comparison> Comparisons(SectionReader top)
    {
        var comparisons = new List<Comparison>();
        foreach (var (name, place, node) in top.Children(JobKeys.Compare))
        {
            var section = new SectionReader(top.File, node, ReportKeys.CompareSection, $"comparison of '{name}'", reading);
            var pull = pulls.FirstOrDefault(pull => pull.Name.Equals(name, StringComparison.OrdinalIgnoreCase));
            if (pull is null)
            {
                reading.Add(place, $"no pull is named '{name}'", Nearest.Hint(name, [.. pulls.Select(other => other.Name)], "pulls"));
                continue;
            }

            IReadOnlyList<string> key = section.Has(ReportKeys.CompareKey)
                ? [.. section.Texts(ReportKeys.CompareKey).Select(column => column.Text)]
                : KeyColumns.Of(pull);
            if (key.Count == 0)
                reading.Add(section.Place, $"{section.Title} has no key", "add key: with the columns that identify a row");
            comparisons.Add(new Comparison(pull.Name, place, key, [.. section.Texts(ReportKeys.Ignore).Select(column => column.Text)]));
        }

        return comparisons;
    }
}
