namespace Cursiva.Core.Jobs;

/// <summary>How a file is compressed; a second suffix tells.</summary>
public enum FilePacking
{
    /// <summary>As it is.</summary>
    None,
    /// <summary>RFC 1952.</summary>
    Gzip,
    /// <summary>RFC 8878.</summary>
    Zstd,
}
