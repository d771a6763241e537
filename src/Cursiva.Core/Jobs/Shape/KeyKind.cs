namespace Cursiva.Core.Jobs.Shape;

/// <summary>What a key of the job file holds.</summary>
public enum KeyKind
{
    Text,
    Path,
    Count,
    Share,
    Choice,
    Duration,
    Zone,
    Pointer,
    SecretSource,
    Size,
    Texts,
    TextMap,
    Rates,
    Inputs,
    Columns,
    Section,
    Sections,
}
