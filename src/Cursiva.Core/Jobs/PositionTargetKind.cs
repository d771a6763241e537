namespace Cursiva.Core.Jobs;

/// <summary>Which part of a request takes a value.</summary>
public enum PositionTargetKind
{
    /// <summary>A query parameter.</summary>
    Parameter,
    /// <summary>A request header.</summary>
    Header,
    /// <summary>A place in the body.</summary>
    Body,

    /// <summary>A placeholder in the pull's path.</summary>
    Placeholder,
}
