namespace Cursiva.Core.Operations;

/// <summary>What is in a backup.</summary>
/// <param name="Format">The version of how backups are laid out.</param>
/// <param name="Version">The Cursiva that made it.</param>
/// <param name="At">When its state.db was copied, in UTC.</param>
/// <param name="Machine">Where it was made.</param>
/// <param name="Key">Where the key of the store was; the key itself is not in it.</param>
public sealed record BackupRecord(
    int Format, string Version, DateTimeOffset At, string Machine, string Key, IReadOnlyList<BackupFile> Files)
{
    /// <summary>The name of the file that has it.</summary>
    public const string FileName = "backup.json";

    /// <summary>The version of how backups are laid out now.</summary>
    public const int Now = 1;
}
