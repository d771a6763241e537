namespace Cursiva.Core.Jobs;

/// <summary>How a file is compressed; a second suffix tells.</summary>
public enum FilePacking
{
    None,
    Gzip,
    Zstd,
}
