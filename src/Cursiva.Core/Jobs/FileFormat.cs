namespace Cursiva.Core.Jobs;

/// <summary>
/// What a report can be written as, as a job declares it: the suffix of a file tells. The class that writes a format declares it, too: see
/// <see cref="FileFormats"/>.
/// </summary>
public abstract class FileFormat
{
    /// <summary>How the names of its files end; of several that fit the longest one counts.</summary>
    public required string Suffix { get; init; }

    /// <summary>How much of a report it holds.</summary>
    public required FormatHolds Holds { get; init; }

    /// <summary>Whether its files may be compressed; others are compressed within.</summary>
    public required bool MayBePacked { get; init; }

    /// <inheritdoc/>
    public override string ToString() => Suffix;
}
