namespace Cursiva.Core.Jobs.Shape;

/// <summary>What a key of the job file holds.</summary>
public enum KeyKind
{
    Text,
    Path,
    Count,
    Share,
    Choice,
    Choices,
    Duration,
    Zone,
    Pointer,
    SecretSource,
    SecretSources,
    Size,
    Texts,
    TextMap,
    Rates,
    Inputs,
    Columns,
    Section,
    Sections,
    SectionList,
    TextOrSection,
    PointerOrSection,
    Pointers,
    TextsMap,
    Number,
    Switch,
    Allowance,
    Anything,
}
