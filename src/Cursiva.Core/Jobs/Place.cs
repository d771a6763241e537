namespace Cursiva.Core.Jobs;

/// <summary>A place in a file; line and column count from 1, and 0 stands for the file as a whole.</summary>
public sealed record Place(string File, int Line = 0, int Column = 0)
{
    /// <inheritdoc/>
    public override string ToString() => Line > 0 ? $"{File}:{Line}:{Column}" : File;
}
