namespace Cursiva.Core.Jobs;

/// <summary>Which part of a request takes a value.</summary>
public enum TakerKind
{
    Parameter,
    Header,
    Body,

    /// <summary>A placeholder in the pull's path.</summary>
    Placeholder,
}
