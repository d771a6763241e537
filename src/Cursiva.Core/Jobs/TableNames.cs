namespace Cursiva.Core.Jobs;

/// <summary>What SQL tables may be called.</summary>
internal static class TableNames
{
    private static readonly string[] s_taken = ["skips", "pulls", "run", "written", "before", "added", "removed", "changed"];

    /// <summary>Reports a name that cannot be a table's, or is taken.</summary>
    /// <param name="what">What has the name: a pull, a query.</param>
    /// <param name="others">The names of the tables before it.</param>
    public static void Check(Reading reading, string name, Place place, string what, IEnumerable<string> others)
    {
        if (!(name.Length is > 0 and <= 60 && char.IsAsciiLetter(name[0]) && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '_')))
            reading.Add(
                place,
                $"'{name}' cannot name a {what}",
                "use letters, digits and _, beginning with a letter: the name becomes an SQL table");
        else if (s_taken.Contains(name, StringComparer.OrdinalIgnoreCase))
            reading.Add(
                place, $"'{name}' cannot name a {what}", $"choose another name: {string.Join(", ", s_taken)} exist in every job's SQL");
        else if (others.Contains(name, StringComparer.OrdinalIgnoreCase))
            reading.Add(place, $"{what} '{name}' has the name of another table", "SQL ignores case; choose another name");
    }
}
