namespace Cursiva.Core.Jobs;

/// <summary>Finds the name that a misspelt one was probably meant to be.</summary>
public static class Nearest
{
    /// <summary>The known name that ends so, or with the smallest edit distance, or null when none is close.</summary>
    public static string? To(string name, IReadOnlyCollection<string> known) =>

        // The last part of a registered name (urn:...:jwt-bearer) is what people remember of it.
        known.FirstOrDefault(candidate => candidate.EndsWith(":" + name, StringComparison.Ordinal))
        ?? known
            .Select(candidate => (candidate, distance: Distance(name, candidate)))
            .Where(pair => pair.distance <= Math.Max(1, Math.Min(name.Length, pair.candidate.Length) / 2))
            .OrderBy(pair => pair.distance)
            .ThenBy(pair => pair.candidate, StringComparer.Ordinal)
            .Select(pair => pair.candidate)
            .FirstOrDefault();

    /// <summary>"did you mean 'x'?" or, when nothing is close, the names there are.</summary>
    public static string Hint(string name, IReadOnlyCollection<string> known, string kind) =>
        To(name, known) is { } near ? $"did you mean '{near}'?"
        : known.Count == 0 ? $"there are no {kind}"
        : $"the {kind} are {string.Join(", ", known.Order(StringComparer.Ordinal))}";

    // Optimal string alignment: insertions, deletions, substitutions and swaps of neighbours cost one each.
    internal static int Distance(string a, string b)
    {
        var table = new int[a.Length + 1, b.Length + 1];
        for (var i = 0; i <= a.Length; i++)
            table[i, 0] = i;
        for (var j = 0; j <= b.Length; j++)
            table[0, j] = j;
        for (var i = 1; i <= a.Length; i++)
        {
            for (var j = 1; j <= b.Length; j++)
            {
                var cost = char.ToLowerInvariant(a[i - 1]) == char.ToLowerInvariant(b[j - 1]) ? 0 : 1;
                table[i, j] = Math.Min(Math.Min(table[i - 1, j] + 1, table[i, j - 1] + 1), table[i - 1, j - 1] + cost);
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                    table[i, j] = Math.Min(table[i, j], table[i - 2, j - 2] + 1);
            }
        }

        return table[a.Length, b.Length];
    }
}
