namespace Cursiva.Core.Jobs;

/// <summary>What the reading of one job carries along.</summary>
/// <param name="Mistakes">Every mistake found so far.</param>
internal sealed record Reading(List<Mistake> Mistakes)
{
    /// <summary>The inputs by name, once they are resolved.</summary>
    public Dictionary<string, Input> Inputs { get; } = new(StringComparer.Ordinal);

    /// <summary>The names that strands give values to.</summary>
    public StrandNames Strands { get; set; } = new(new HashSet<string>());

    /// <summary>The same reading for one strand, with its values.</summary>
    public Reading With(StrandNames names, Func<string, string?> values)
    {
        var reading = new Reading([]) { Strands = new StrandNames(names.Heads, values) };
        foreach (var (name, input) in Inputs)
            reading.Inputs[name] = input;
        return reading;
    }

    public void Add(Place place, string found, string right) => Mistakes.Add(new Mistake(place, found, right));

    /// <summary>Fills inputs into a text; what is wrong is reported and the text comes back as it is.</summary>
    public string Fill(string text, Place place)
    {
        if (ParseTemplate(text, place, Strands.Knows, []) is not { } template)
            return text;

        return template.Names.All(name => Inputs.ContainsKey(name) || Strands.Knows(name)) ? template.Fill(name => Inputs.TryGetValue(name, out var input) ? input.Value : Strands.Value(name)) : text;
    }

    /// <summary>Reads a template and fills in the inputs, leaving the names of <paramref name="later"/> for later.</summary>
    public Template? FillBut(string text, Place place, IReadOnlyList<string> later) => FillBut(text, place, later.Contains, later);

    /// <summary>Reads a template and fills in the inputs, leaving some names for later.</summary>
    /// <param name="isLater">Which names are left.</param>
    /// <param name="hints">What these look like, for messages.</param>
    public Template? FillBut(string text, Place place, Func<string, bool> isLater, IReadOnlyList<string> hints)
    {
        if (ParseTemplate(text, place, isLater, hints) is not { } template || !template.Names.All(name => isLater(name) || Inputs.ContainsKey(name)))
            return null;

        var filled = template.Fill(name => isLater(name) ? "{" + name + "}" : Inputs[name].Value.Replace("{", "{{").Replace("}", "}}"));
        return Template.TryParse(filled, out _);
    }

    private Template? ParseTemplate(string text, Place place, Func<string, bool> isLater, IReadOnlyList<string> hints)
    {
        if (!text.Contains('{') && !text.Contains('}'))
            return Template.TryParse(text, out _);

        var template = Template.TryParse(text, out var mistake);
        if (template is null)
        {
            Add(place, $"{mistake} in '{Shorten(text)}'", "write {{ and }} for braces that are meant as they stand");
            return null;
        }

        foreach (var name in template.Names.Where(name => !isLater(name) && !Inputs.ContainsKey(name)).Distinct())
            Add(place, $"no input is named '{name}'", Nearest.Hint(name, [.. Inputs.Keys, .. hints], "inputs"));
        return template;
    }

    private static string Shorten(string text) => text.Length <= 60 ? text : text[..57] + "...";
}
