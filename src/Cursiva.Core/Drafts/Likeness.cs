using System.Text.Json;

namespace Cursiva.Core.Drafts;

/// <summary>How alike objects are, by the names of their members.</summary>
internal static class Likeness
{
    private const int MostLookedAt = 200;

    /// <summary>The share of all names that an object has on average, from 0 to 1; 0 for none.</summary>
    public static double Of(IEnumerable<JsonElement> objects)
    {
        var names = objects.Take(MostLookedAt).Select(NamesOf).ToList();
        if (names.Count == 0)
            return 0;
        var all = names.SelectMany(own => own).ToHashSet(StringComparer.Ordinal);
        return all.Count == 0 ? 0 : names.Average(own => (double)own.Count / all.Count);
    }

    /// <summary>The share of names that two lists of objects have in common.</summary>
    public static double Between(IEnumerable<JsonElement> some, IEnumerable<JsonElement> others)
    {
        var (one, other) = (All(some), All(others));
        return one.Count + other.Count == 0 ? 0 : (double)one.Intersect(other).Count() / one.Union(other).Count();
    }

    /// <summary>The names of all members of some objects.</summary>
    public static HashSet<string> All(IEnumerable<JsonElement> objects) =>
        objects.Take(MostLookedAt).SelectMany(NamesOf).ToHashSet(StringComparer.Ordinal);

    private static List<string> NamesOf(JsonElement element) => [.. element.EnumerateObject().Select(member => member.Name)];
}
