namespace Cursiva.Core.Jobs;

/// <summary>
/// Identities and APIs whose declaration has placeholders that each strand fills in, so that one job serves many tenants.
/// Each is made from the values of a strand, by name; making one throws <see cref="JobMistakesException"/> where a value does not fit.
/// </summary>
public sealed class StrandServices
{
    /// <summary>The names of values that they use.</summary>
    public IReadOnlySet<string> Names { get; init; } = new HashSet<string>();

    /// <summary>Identities that depend on the strand's values, by name: each makes the declaration for those values.</summary>
    public Dictionary<string, Func<Func<string, string?>, DeclaredIdentity>> Identities { get; } = new(StringComparer.Ordinal);

    /// <summary>See <see cref="DeclaredIdentity.TokenFields"/>, by identity.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> TokenFields { get; set; } = new Dictionary<string, IReadOnlyList<string>>();

    /// <summary>APIs that depend on the strand's values, by name: each makes the declaration for those values.</summary>
    public Dictionary<string, Func<Func<string, string?>, Api>> Apis { get; } = new(StringComparer.Ordinal);

    // Values with a comma in them are told apart from two values.
    private static string? Apart(string? value) =>
        value is null || value.All(c => char.IsLetterOrDigit(c) || c is '-' or '_' or '.' or ' ')
            ? value
            : DeclarationKey.Of([value])[1..^1];

    /// <summary>An identity, filled in. It is called by what it was filled in with: its tokens are its own.</summary>
    /// <exception cref="JobMistakesException">A value does not fit.</exception>
    public DeclaredIdentity Identity(string name, Func<string, string?> values)
    {
        var used = new SortedDictionary<string, string?>(StringComparer.Ordinal);
        var identity = Identities[name](asked => used[asked] = values(asked));
        return identity with
        {
            TokenFields = TokenFields.GetValueOrDefault(name, []),
            Name = $"{identity.Name} ({string.Join(", ", used.Values.Select(Apart))})",
        };
    }
}
