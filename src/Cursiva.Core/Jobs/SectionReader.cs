using System.Globalization;
using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the keys of one section, and reports unknown, missing and misshapen ones.</summary>
internal sealed class SectionReader
{
    private const int MostNamed = 1000;

    private readonly YamlFile _file;
    private readonly Reading _reading;
    private readonly Section _section;
    private readonly Dictionary<string, YamlNode> _nodes = new(StringComparer.Ordinal);

    /// <param name="title">The section as messages call it, for example <c>pull 'depots'</c>.</param>
    public SectionReader(YamlFile file, YamlNode node, Section section, string title, Reading reading)
    {
        _file = file;
        _reading = reading;
        _section = section;
        Title = title;
        Place = file.At(node);
        if (node is not YamlMappingNode mapping)
        {
            reading.Add(Place, $"{title} is {Describe(node)}", $"write its keys below it: {string.Join(", ", section.Keys.Select(key => key.Name))}");
            return;
        }

        foreach (var (name, value) in mapping.Children)
        {
            var text = (name as YamlScalarNode)?.Value ?? "";
            if (section.Keys.Any(key => key.Name == text))
                _nodes[text] = value;
            else
                reading.Add(file.At(name), $"unknown key '{text}' in {title}", Nearest.Hint(text, [.. section.Keys.Select(key => key.Name)], "keys"));
        }

        foreach (var key in section.Keys.Where(key => key.Required && !_nodes.ContainsKey(key.Name)))
            reading.Add(Place, $"{title} has no '{key.Name}'", $"add {key.Name}: {key.Gist}{ForExample(key)}");
    }

    public string Title { get; }

    public Place Place { get; }

    public YamlFile File => _file;

    public Reading Reading => _reading;

    public bool Has(Key key) => _nodes.ContainsKey(key.Name);

    public Place At(Key key) => _nodes.TryGetValue(key.Name, out var node) ? _file.At(node) : Place;

    public YamlNode? Node(Key key) => _nodes.GetValueOrDefault(key.Name);

    /// <summary>The text of a key as it stands, inputs not filled in; null when it is missing or no text.</summary>
    public string? RawText(Key key)
    {
        if (Node(key) is not { } node)
            return null;
        if (node is YamlScalarNode { Value: { } text })
            return text;
        Wrong(key, node);
        return null;
    }

    /// <summary>The text of a key, inputs filled in.</summary>
    public string? Text(Key key) => RawText(key) is { } text ? _reading.Fill(text, At(key)) : null;

    public string? Choice(Key key)
    {
        if (Text(key) is not { } text)
            return null;
        if (key.Choices.Contains(text))
            return text;
        _reading.Add(At(key), $"unknown {key.Name} '{text}'", Nearest.Hint(text, key.Choices, "values"));
        return null;
    }

    /// <summary>One choice or several, inputs filled in.</summary>
    public IReadOnlyList<string> Choices(Key key)
    {
        var chosen = new List<string>();
        foreach (var (text, place) in Texts(key))
        {
            if (key.Choices.Contains(text))
                chosen.Add(text);
            else
                _reading.Add(place, $"unknown {key.Name} '{text}'", Nearest.Hint(text, key.Choices, "values"));
        }

        return chosen;
    }

    /// <summary>One secret source or several, inputs filled in. A text that is not a source may be the secret and is not repeated.</summary>
    public IReadOnlyList<SecretSource> SecretSources(Key key)
    {
        var sources = new List<SecretSource>();
        foreach (var (raw, place) in RawTexts(key))
        {
            if (_reading.Source(raw, place) is { } source)
                sources.Add(source);
            else if (SecretSource.KindOf(raw) is not null)
                _reading.Add(place, $"{key.Name} of {Title} is not a valid secret source", SecretSource.Right);
            else
                _reading.Add(place, $"{key.Name} of {Title} is not a secret source", SecretSource.Right + "; if this was the secret itself, replace it");
        }

        return sources;
    }

    /// <summary>The section below a key; null when it is not there.</summary>
    public SectionReader? Inside(Key key, Reading reading) =>
        Node(key) is { } node ? new SectionReader(_file, node, key.Inside!, $"{key.Name} of {Title}", reading) : null;

    public TimeSpan? Duration(Key key) => Parsed(key, Durations.TryParse, "a duration", Durations.Right);

    public JsonPointer? Pointer(Key key) => RawText(key) is { } text ? ParsedClass(key, text, JsonPointer.TryParse, "a JSON Pointer", JsonPointer.Right) : null;

    public TimeZoneInfo? Zone(Key key) => Text(key) is { } text
        ? ParsedClass(key, text, name => TimeZoneInfo.TryFindSystemTimeZoneById(name, out var zone) ? zone : null, "an IANA time zone", "write a name of the IANA time zone database: Europe/Oslo, UTC")
        : null;

    /// <summary>A whole number within the key's bounds.</summary>
    public int? Whole(Key key) => Parsed<int>(
        key,
        text => int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number >= key.Least && number <= key.Most ? number : null,
        $"a whole number from {key.Least} to {key.Most}",
        $"write a whole number from {key.Least} to {key.Most}");

    /// <summary>True or false.</summary>
    public bool? Switch(Key key) => Parsed<bool>(key, text => text switch { "true" => true, "false" => false, _ => null }, "true or false", "write true or false");

    /// <summary>One JSON Pointer or several.</summary>
    public IReadOnlyList<JsonPointer> Pointers(Key key) =>
        [.. RawTexts(key).Select(item => Pointer(item.Text, item.Place, key)).OfType<JsonPointer>()];

    /// <summary>The JSON Pointer that a text is; null, and a mistake, when it is none.</summary>
    public JsonPointer? Pointer(string text, Place place, Key key)
    {
        if (JsonPointer.TryParse(text) is { } pointer)
            return pointer;
        _reading.Add(place, $"{key.Name} in {Title} must be a JSON Pointer, not '{text}'", JsonPointer.Right);
        return null;
    }

    /// <summary>Named JSON Pointers.</summary>
    public IReadOnlyList<KeyValuePair<string, JsonPointer>> PointerMap(Key key) =>
        [.. RawTextMap(key).Select(item => (item.Name, At: Pointer(item.Text, item.Place, key))).Where(item => item.At is not null).Select(item => KeyValuePair.Create(item.Name, item.At!))];

    /// <summary>A share above 0 and at most 1, written <c>80%</c> or <c>0.8</c>.</summary>
    public double? Share(Key key) => Parsed<double>(
        key,
        text => double.TryParse(text.TrimEnd('%'), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
            && (text.EndsWith('%') ? number / 100 : number) is > 0 and <= 1 and var share
                ? share
                : null,
        "a share above 0 and at most 100%",
        "write a percentage above 0%: 80%");

    /// <summary>One text or a list of texts, each with its place, inputs not filled in.</summary>
    public IReadOnlyList<(string Text, Place Place)> RawTexts(Key key)
    {
        switch (Node(key))
        {
            case null:
                return [];
            case YamlScalarNode { Value: { } text } node:
                return [(text, _file.At(node))];
            case YamlSequenceNode list when list.Children.All(child => child is YamlScalarNode):
                return [.. list.Children.Select(child => (((YamlScalarNode)child).Value ?? "", _file.At(child)))];
            case { } node:
                Wrong(key, node);
                return [];
        }
    }

    /// <summary>One text or several, each of which may be several words with spaces between them; the value of a row is a part of one.</summary>
    public IReadOnlyList<string> Words(Key key)
    {
        foreach (var (text, place) in RawTexts(key).Where(item => !_reading.Strands.StandIn && _reading.Strands.IsIn(item.Text)))
        {
            if (Template.TryParse(text, out _)!.Names.FirstOrDefault(name => _reading.Strands.Knows(name) && _reading.Strands.Value(name).Any(c => char.IsWhiteSpace(c) || char.IsControl(c))) is { } name)
                _reading.Add(place, $"the value of {{{name}}} has white space, so {key.Name} of {Title} would get extra words", "values of rows can fill only one word, or part of it");
        }

        return [.. Texts(key).SelectMany(item => item.Text.Split(' ', StringSplitOptions.RemoveEmptyEntries))];
    }

    public IReadOnlyList<(string Text, Place Place)> Texts(Key key) =>
        [.. RawTexts(key).Select(item => (_reading.Fill(item.Text, item.Place), item.Place))];

    public IReadOnlyDictionary<string, string> TextMap(Key key) =>
        RawTextMap(key).ToDictionary(child => child.Name, child => _reading.Fill(child.Text, child.Place), StringComparer.Ordinal);

    /// <summary>The named values below a key, each a text or a secret source.</summary>
    public IReadOnlyDictionary<string, DeclaredValue> ValueMap(Key key) =>
        RawTextMap(key).ToDictionary(child => child.Name, child => _reading.Value(child.Text, child.Place), StringComparer.Ordinal);

    /// <summary>The named texts below a key, each with its place, inputs not filled in.</summary>
    public IReadOnlyList<(string Name, Place Place, string Text)> RawTextMap(Key key) =>
        [.. Children(key).Where(child => Scalar(key, child.Value)).Select(child => (child.Name, _file.At(child.Value), ((YamlScalarNode)child.Value).Value ?? ""))];

    /// <summary>The named texts below a key, where one name may have a list of them.</summary>
    public IReadOnlyList<(string Name, Place Place, string Text)> RawTextsMap(Key key)
    {
        var found = new List<(string, Place, string)>();
        foreach (var (name, _, value) in Children(key))
        {
            foreach (var node in value is YamlSequenceNode list ? list.Children : [value])
            {
                if (Scalar(key, node))
                    found.Add((name, _file.At(node), ((YamlScalarNode)node).Value ?? ""));
            }
        }

        return found;
    }

    /// <summary>The sections below a key: one, or a list of them.</summary>
    public IReadOnlyList<SectionReader> Insides(Key key, Reading reading) => Node(key) switch
    {
        null => [],
        YamlSequenceNode list => [.. list.Children.Select(node => new SectionReader(_file, node, key.Inside!, $"{key.Name} of {Title}", reading))],
        { } node => [new SectionReader(_file, node, key.Inside!, $"{key.Name} of {Title}", reading)],
    };

    /// <summary>A count or a percentage of strands.</summary>
    public SkipAllowance? Allowance(Key key) => Text(key) is { } text ? ParsedClass(key, text, SkipAllowance.TryParse, "a count or a percentage", SkipAllowance.Right) : null;

    /// <summary>The named things below a key, in the file's order.</summary>
    public IReadOnlyList<(string Name, Place Place, YamlNode Value)> Children(Key key)
    {
        if (Node(key) is not { } node)
            return [];
        if (node is YamlMappingNode { Children.Count: > MostNamed } many)
        {
            _reading.Add(_file.At(node), $"{key.Name} in {Title} has {many.Children.Count:N0} names", $"write at most {MostNamed:N0}; more than that is data, which belongs in a pull, or in a CSV file named by per:");
            return [];
        }

        if (node is YamlMappingNode mapping)
            return [.. mapping.Children.Select(pair => ((pair.Key as YamlScalarNode)?.Value ?? "", _file.At(pair.Key), pair.Value))];
        Wrong(key, node);
        return [];
    }

    private bool Scalar(Key key, YamlNode node)
    {
        if (node is YamlScalarNode)
            return true;
        _reading.Add(_file.At(node), $"a value of {key.Name} in {Title} is {Describe(node)}", "write a text");
        return false;
    }

    private T? Parsed<T>(Key key, Func<string, T?> parse, string kind, string right)
        where T : struct
    {
        if (Text(key) is not { } text)
            return null;
        if (parse(text) is { } value)
            return value;
        _reading.Add(At(key), $"{key.Name} in {Title} must be {kind}, not '{text}'", right);
        return null;
    }

    private T? ParsedClass<T>(Key key, string text, Func<string, T?> parse, string kind, string right)
        where T : class
    {
        if (parse(text) is { } value)
            return value;
        _reading.Add(At(key), $"{key.Name} in {Title} must be {kind}, not '{text}'", right);
        return null;
    }

    private void Wrong(Key key, YamlNode node) =>
        _reading.Add(_file.At(node), $"{key.Name} in {Title} is {Describe(node)}", $"write {key.Gist}{ForExample(key)}");

    private static string Describe(YamlNode node) => node switch
    {
        YamlMappingNode => "a group of keys",
        YamlSequenceNode => "a list",
        YamlScalarNode { Value: null or "" } => "empty",
        YamlScalarNode scalar => $"the text '{scalar.Value}'",
        _ => "something else",
    };

    private static string ForExample(Key key) => key.Example is null ? "" : $", for example {key.Name}: {key.Example}";
}
