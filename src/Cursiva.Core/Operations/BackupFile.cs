namespace Cursiva.Core.Operations;

/// <summary>A file of a backup.</summary>
/// <param name="Path">From the state folder.</param>
/// <param name="Sha256">In hexadecimal.</param>
public sealed record BackupFile(string Path, long Bytes, string Sha256);
