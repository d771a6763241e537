namespace Cursiva.Core.Jobs;

/// <summary>The places of token endpoints' answers that APIs and pulls take values from, by identity.</summary>
internal static class TokenPlaces
{
    /// <summary>The placeholders, <c>token/POINTER</c>, by identity.</summary>
    public static IReadOnlyDictionary<string, IReadOnlyList<string>> Of(
        IReadOnlyDictionary<string, Api> apis, IReadOnlyList<Pull> pulls, Reading reading)
    {
        var found = new Dictionary<string, SortedSet<string>>(StringComparer.Ordinal);
        foreach (var api in apis.Values)
        {
            string[] names =
            [
                .. api.TokenBase is null ? [] : Template.TryParse(api.TokenBase, out _)!.Names,
                .. api.Probe is { } probe ? PathTemplate.Names(probe.Get, out _) : [],
            ];
            Add(found, api.Identity, names, api.Place, $"api '{api.Name}'", reading);

            // A pull may ask as somebody else, whose token says where.
            foreach (var pull in pulls.Where(pull => pull.Api == api.Name))
                Add(
                    found,
                    pull.Identity ?? api.Identity,
                    [.. names, .. new NamesOfRequest(pull).All],
                    pull.Place,
                    $"pull '{pull.Name}'",
                    reading);
        }

        return found.ToDictionary(pair => pair.Key, IReadOnlyList<string> (pair) => [.. pair.Value], StringComparer.Ordinal);
    }

    private static void Add(
        Dictionary<string, SortedSet<string>> found, string? identity, IEnumerable<string> names, Place place, string what, Reading reading)
    {
        foreach (var name in names.Where(Presentation.IsOfToken))
        {
            if (identity is null)
                reading.Add(
                    place, $"{what} takes {{{name}}} from the answer of a sign-in, but no identity signs in", "name an identity: that signs in");
            else if (found.TryGetValue(identity, out var already))
                already.Add(name);
            else
                found[identity] = new(StringComparer.Ordinal) { name };
        }
    }
}
