namespace Cursiva.Core.Jobs;

/// <summary>What the reading of one job carries along.</summary>
/// <param name="Mistakes">Every mistake found so far.</param>
internal sealed record Reading(List<Mistake> Mistakes)
{
    /// <summary>The inputs by name, once they are resolved.</summary>
    public Dictionary<string, Input> Inputs { get; } = new(StringComparer.Ordinal);

    public void Add(Place place, string found, string right) => Mistakes.Add(new Mistake(place, found, right));

    /// <summary>Fills inputs into a text; what is wrong is reported and the text comes back as it is.</summary>
    public string Fill(string text, Place place)
    {
        if (ParseTemplate(text, place, []) is not { } template)
            return text;

        return template.Names.All(Inputs.ContainsKey) ? template.Fill(name => Inputs[name].Value) : text;
    }

    /// <summary>Reads a template and fills in the inputs, leaving the names of <paramref name="later"/> for later.</summary>
    public Template? FillBut(string text, Place place, IReadOnlyList<string> later)
    {
        if (ParseTemplate(text, place, later) is not { } template || !template.Names.All(name => later.Contains(name) || Inputs.ContainsKey(name)))
            return null;

        var filled = template.Fill(name => later.Contains(name) ? "{" + name + "}" : Inputs[name].Value.Replace("{", "{{").Replace("}", "}}"));
        return Template.TryParse(filled, out _);
    }

    private Template? ParseTemplate(string text, Place place, IReadOnlyList<string> later)
    {
        if (!text.Contains('{') && !text.Contains('}'))
            return Template.TryParse(text, out _);

        var template = Template.TryParse(text, out var mistake);
        if (template is null)
        {
            Add(place, $"{mistake} in '{Shorten(text)}'", "write {{ and }} for braces that are meant as they stand");
            return null;
        }

        foreach (var name in template.Names.Where(name => !later.Contains(name) && !Inputs.ContainsKey(name)).Distinct())
            Add(place, $"no input is named '{name}'", Nearest.Hint(name, [.. Inputs.Keys, .. later], "inputs"));
        return template;
    }

    private static string Shorten(string text) => text.Length <= 60 ? text : text[..57] + "...";
}
