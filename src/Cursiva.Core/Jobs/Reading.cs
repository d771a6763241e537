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

    // Where a placeholder has no value; what would be said of the text that is left is the same mistake once more.
    private readonly HashSet<Place> _unfilled = [];

    public void Add(Place place, string found, string right)
    {
        if (!_unfilled.Contains(place))
            Mistakes.Add(new Mistake(place, found, right));
    }

    /// <summary>Reports the placeholders of one text that have no value.</summary>
    public void AddUnfilled(Place place, IEnumerable<string> names, IEnumerable<string> known)
    {
        foreach (var name in names.Distinct())
        {
            Mistakes.Add(new Mistake(place, $"no input is named '{name}'", Nearest.Hint(name, [.. known], "inputs")));
            _unfilled.Add(place);
        }
    }

    /// <summary>Fills inputs into a text; what is wrong is reported and the text comes back as it is.</summary>
    public string Fill(string text, Place place)
    {
        if (ParseTemplate(text, place, Strands.Knows, []) is not { } template)
            return text;

        return template.Names.All(name => Inputs.ContainsKey(name) || Strands.Knows(name))
            ? template.Fill(name => Inputs.TryGetValue(name, out var input) ? input.Value : Strands.Value(name))
            : text;
    }

    /// <summary>Reads a template and fills in the inputs, leaving the names of <paramref name="later"/> for later.</summary>
    public Template? FillBut(string text, Place place, IReadOnlyList<string> later) => FillBut(text, place, later.Contains, later);

    /// <summary>Reads a template and fills in the inputs, leaving some names for later.</summary>
    /// <param name="isLater">Which names are left.</param>
    /// <param name="hints">What these look like, for messages.</param>
    public Template? FillBut(string text, Place place, Func<string, bool> isLater, IReadOnlyList<string> hints)
    {
        if (ParseTemplate(text, place, isLater, hints) is not { } template
            || !template.Names.All(name => isLater(name) || Inputs.ContainsKey(name)))
            return null;

        // Braces that are meant as they stand still are once it is read again.
        var filled = string.Concat(
            template.Parts.Select(
                part => part.IsName && isLater(part.Text)
                    ? "{" + part.Text + "}"
                    : (part.IsName ? Inputs[part.Text].Value : part.Text).Replace("{", "{{").Replace("}", "}}")));
        return Template.TryParse(filled, out _);
    }

    /// <summary>
    /// Reads a value that may be a secret source. Which it is, the author's own text decides; what is filled in does not.
    /// </summary>
    /// <param name="isLater">Which names are filled in later, by values of rows and answers.</param>
    /// <param name="hints">What these look like, for messages.</param>
    public DeclaredValue? Value(string text, Place place, Func<string, bool> isLater, IReadOnlyList<string> hints)
    {
        var isSource = SecretSource.KindOf(text) is not null;
        if (isSource)
            CheckSource(text, place, isLater);
        return FillBut(text, place, isLater, hints) is { } template ? new DeclaredValue(template, isSource) : null;
    }

    /// <summary>Reads a value that may be a secret source, everything filled in.</summary>
    public DeclaredValue Value(string text, Place place)
    {
        var isSource = SecretSource.KindOf(text) is not null;
        if (isSource)
            CheckSource(text, place, Strands.Knows);
        return new DeclaredValue(Template.OfLiteral(Fill(text, place)), isSource);
    }

    /// <summary>Reads a secret source, everything filled in; null when the author wrote none.</summary>
    public SecretSource? Source(string text, Place place)
    {
        if (SecretSource.KindOf(text) is null)
            return null;
        CheckSource(text, place, Strands.Knows);
        return SecretSource.TryParse(Fill(text, place));
    }

    /// <summary>
    /// The address in a text, everything filled in: values of strands are encoded in paths and queries, and one label in a host.
    /// </summary>
    public string FillAddress(string text, Place place)
    {
        if (ParseTemplate(text, place, Strands.Knows, []) is not { } template
            || !template.Names.All(name => Inputs.ContainsKey(name) || Strands.Knows(name)))
            return text;
        string Value(string name) => Inputs.TryGetValue(name, out var input) ? input.Value : Strands.Value(name);
        bool IsOutside(string name) => !Inputs.ContainsKey(name);
        var address = AddressTemplate.Fill(template, Value, IsOutside, out var wrong);
        if (Strands.StandIn)
        {
            // No value is known yet; where they stand can be looked at already.
            address = template.Fill(Value);
            AddressTemplate.Fill(template, name => IsOutside(name) ? "x" : Value(name), IsOutside, out wrong);
        }

        if (wrong is not null)
            Add(
                place,
                $"the value of {{{wrong.Name}}} is {wrong.What}",
                "values of rows can fill only one label of a host, or a segment of a path");
        return address;
    }

    // Values of rows name a secret at most by one segment: of a kept name, or of the pointer into a file that the author names.
    private void CheckSource(string text, Place place, Func<string, bool> isLater)
    {
        if (Template.TryParse(text, out _) is not { } template)
            return;
        var before = "";
        foreach (var (part, isName) in template.Parts)
        {
            if (isName && !Inputs.ContainsKey(part) && isLater(part))
            {
                var mayStand = text.StartsWith(SecretSource.Kept + ":", StringComparison.Ordinal) || (
                    text.StartsWith(SecretSource.File + ":", StringComparison.Ordinal) && before.Contains("#/", StringComparison.Ordinal));
                if (!mayStand)
                    Add(
                        place,
                        $"{{{part}}}, a value from outside, would decide which secret is read",
                        "values of rows and answers can only be a segment of kept:NAME, or of the pointer after file:PATH#/");
                else if (Strands.Knows(part) && !Strands.StandIn && Confines.SecretName(Strands.Value(part)) is { } wrong)
                    Add(place, $"the value of {{{part}}} is {wrong}", "values of rows can fill only one such segment of a secret's name");
            }

            before += part;
        }
    }

    private Template? ParseTemplate(string text, Place place, Func<string, bool> isLater, IReadOnlyList<string> hints)
    {
        if (!text.Contains('{') && !text.Contains('}'))
            return Template.TryParse(text, out _);

        var template = Template.TryParse(text, out var mistake);
        if (template is null)
        {
            Add(place, $"{mistake} in '{Shorten(text)}'", "write {{ and }} for literal braces");
            return null;
        }

        AddUnfilled(place, template.Names.Where(name => !isLater(name) && !Inputs.ContainsKey(name)), [.. Inputs.Keys, .. hints]);
        return template;
    }

    private static string Shorten(string text) => text.Length <= 60 ? text : text[..57] + "...";
}
