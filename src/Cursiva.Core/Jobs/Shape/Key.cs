namespace Cursiva.Core.Jobs.Shape;

/// <summary>One key of the job file, told once: the reader, the JSON Schema and the reference page all go by it.</summary>
/// <param name="Meaning">What it says, in a sentence fragment.</param>
public sealed record Key(string Name, KeyKind Kind, string Meaning)
{
    /// <summary>The meaning up to its first break, short enough for a message.</summary>
    public string Gist => Meaning.Split([". ", ";"], StringSplitOptions.None)[0];

    /// <summary>Whether the section is wrong without it.</summary>
    public bool Required { get; init; }

    /// <summary>The lowest number that a <see cref="KeyKind.Number"/> may be.</summary>
    public int Least { get; init; }

    /// <summary>The highest number that a <see cref="KeyKind.Number"/> may be.</summary>
    public int Most { get; init; } = int.MaxValue;

    /// <summary>Whether the names of a <see cref="KeyKind.TextMap"/> are numbers.</summary>
    public bool NamesAreNumbers { get; init; }

    /// <summary>Whether it is read before there are inputs, so that no placeholder may stand there.</summary>
    public bool IsFixed { get; init; }

    /// <summary>The values a <see cref="KeyKind.Choice"/> may have.</summary>
    public IReadOnlyList<string> Choices { get; init; } = [];

    /// <summary>What holds when the key is not there, in words.</summary>
    public string? Otherwise { get; init; }

    /// <summary>The keys inside, for a <see cref="KeyKind.Section"/> or <see cref="KeyKind.Sections"/>.</summary>
    public Section? Inside { get; init; }

    /// <summary>An example of the value, as YAML on one line.</summary>
    public string? Example { get; init; }
}
