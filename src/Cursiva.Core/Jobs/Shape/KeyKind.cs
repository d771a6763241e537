namespace Cursiva.Core.Jobs.Shape;

/// <summary>What a key of the job file holds.</summary>
public enum KeyKind
{
    /// <summary>A text.</summary>
    Text,
    /// <summary>An RFC 6570 template.</summary>
    Path,
    /// <summary>A percentage.</summary>
    Share,
    /// <summary>One of the key's choices.</summary>
    Choice,
    /// <summary>One or several of the key's choices.</summary>
    Choices,
    /// <summary>A number and a unit.</summary>
    Duration,
    /// <summary>The name of a time zone.</summary>
    Zone,
    /// <summary>A JSON Pointer (RFC 6901).</summary>
    Pointer,
    /// <summary>A secret source.</summary>
    SecretSource,
    /// <summary>One or several secret sources.</summary>
    SecretSources,
    /// <summary>One or several texts.</summary>
    Texts,
    /// <summary>Names and texts.</summary>
    TextMap,
    /// <summary>One or several rates.</summary>
    Rates,
    /// <summary>Names and values of inputs.</summary>
    Inputs,
    /// <summary>Names and declared columns.</summary>
    Columns,
    /// <summary>Keys of another section.</summary>
    Section,
    /// <summary>Names, each with the keys of another section.</summary>
    Sections,
    /// <summary>A list of another section's keys.</summary>
    SectionList,
    /// <summary>A text, or the keys of another section.</summary>
    TextOrSection,
    /// <summary>A JSON Pointer, or the keys of another section.</summary>
    PointerOrSection,
    /// <summary>One or several texts, or the keys of another section.</summary>
    TextsOrSection,
    /// <summary>One or several JSON Pointers, or the keys of another section.</summary>
    PointersOrSection,
    /// <summary>One or several JSON Pointers.</summary>
    Pointers,
    /// <summary>Names, each with one or several texts.</summary>
    TextsMap,
    /// <summary>A whole number within the key's bounds.</summary>
    Number,
    /// <summary>true or false.</summary>
    Switch,
    /// <summary>A count or a percentage.</summary>
    Allowance,
    /// <summary>Any YAML.</summary>
    Anything,
    /// <summary>A count from 1, or an age.</summary>
    CountOrAge,
}
