namespace Cursiva.Core.Jobs;

/// <summary>The names that strands give values to: those of the pulls and lists that something is repeated for.</summary>
/// <param name="heads">What such names begin with, up to the first dot.</param>
/// <param name="values">The values of one strand; null while none is known, and the placeholders stand in for them.</param>
internal sealed class StrandNames(IReadOnlySet<string> heads, Func<string, string?>? values = null)
{
    private readonly HashSet<string> _asked = new(StringComparer.Ordinal);

    /// <summary>How often a value was asked for.</summary>
    public int Used { get; private set; }

    /// <summary>The names whose value was asked for.</summary>
    public IReadOnlySet<string> Asked => _asked;

    public IReadOnlySet<string> Heads => heads;

    public bool Knows(string name) => heads.Contains(name.Split('.')[0]);

    /// <summary>The value of a name.</summary>
    public string Value(string name)
    {
        Used++;
        _asked.Add(name);
        return values is null ? "{" + name + "}" : values(name) ?? "";
    }

    /// <summary>Whether no values are known yet, and the placeholders stand in for them.</summary>
    public bool StandIn => values is null;

    /// <summary>Whether a text has placeholders of strands.</summary>
    public bool IsIn(string text) => Template.TryParse(text, out _) is { } template && template.Names.Any(Knows);

    /// <summary>Whether a text has placeholders that something stands in for.</summary>
    public bool StandsInFor(string text) => values is null && Template.TryParse(text, out _) is { } template && template.Names.Any(Knows);
}
