using System.Security.Cryptography;
using System.Text.Json;
using Cursiva.Core.Files;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Operations;

/// <summary>
/// Copies a state folder while runs are under way, and puts a copy in place on another machine. Databases are copied as they are at one
/// moment,
/// the state first; of landings that grow meanwhile, the copy of the index says what of the segments counts. The key of the store is never
/// in it.
/// </summary>
public sealed class StateBackup(IDisk disk, TimeProvider clock)
{
    private const int Tries = 3;

    // Of this machine and moment, or told apart from the rest.
    private static readonly string[] s_left = ["lock", "lock-holder", "pulse.json", "stop", "store.key", "store.key-wanted"];

    /// <summary>Copies.</summary>
    /// <param name="into">A folder that is not there, or empty.</param>
    /// <param name="version">The Cursiva that makes it.</param>
    /// <param name="keyIs">Where the key of the store is, in words.</param>
    /// <exception cref="RefusedException">The folder is not empty, there is no state, or it changes too fast.</exception>
    /// <exception cref="IOException">The disk does not take it.</exception>
    public BackupRecord Make(StateFolder state, string into, string version, string keyIs, CancellationToken cancel)
    {
        if (!File.Exists(state.Database))
            throw Refuse($"there is no state in {state.Root}", "name the state folder with --state");
        if (Directory.Exists(into) && Directory.EnumerateFileSystemEntries(into).Any())
            throw Refuse($"{into} is not empty", "name a folder that does not exist yet");
        for (var attempt = 1; ; attempt++)
        {
            disk.DeleteFolder(into);
            disk.CreateFolder(into);
            try
            {
                return Copy(state, into, version, keyIs, cancel);
            }
            catch (Exception error) when (error is FileNotFoundException or DirectoryNotFoundException && attempt < Tries)
            {
                // A landing was removed meanwhile, as retain: says: the next copy of the state no longer counts on it.
            }
        }
    }

    /// <summary>Puts a copy in place.</summary>
    /// <param name="from">The folder of the backup.</param>
    /// <returns>What was in it.</returns>
    /// <exception cref="RefusedException">It is not a backup, or damaged, or there is a state already.</exception>
    public BackupRecord Restore(string from, StateFolder state, CancellationToken cancel)
    {
        var record = Read(from);
        if (File.Exists(state.Database))
            throw Refuse($"there is already a state in {state.Root}", "move it away first, or name another folder with --state");
        Verify(from, record, cancel);
        state.Prepare(disk);
        foreach (var file in record.Files.OrderBy(file => file.Path == Path.GetFileName(state.Database)))
        {
            cancel.ThrowIfCancellationRequested();
            var to = Path.Combine(state.Root, file.Path);
            disk.CreateFolder(Path.GetDirectoryName(to)!);
            CopyFile(Path.Combine(from, file.Path), to);
        }

        // Secrets are sealed with a key that is not in the backup, and another one would open none of them.
        if (!File.Exists(Path.Combine(state.Root, "store.key")))
            WholeFile.Write(disk, StoreKey.WantedFile(state), System.Text.Encoding.UTF8.GetBytes(record.Key));
        disk.FlushFolder(state.Root);
        return record;
    }

    private static BackupRecord Read(string from)
    {
        try
        {
            var record = JsonSerializer.Deserialize(
                File.ReadAllBytes(Path.Combine(from, BackupRecord.FileName)), OperationsJson.Default.BackupRecord)!;
            if (record.Format == BackupRecord.Now && record.Files.All(file => Confined(file.Path)))
                return record;
            throw Refuse(
                $"{from} is a backup of format {record.Format}, but this Cursiva reads {BackupRecord.Now}",
                $"restore it with the version that made it ({record.Version}), or a newer one");
        }
        catch (Exception error) when (error is IOException or JsonException or UnauthorizedAccessException)
        {
            throw Refuse($"{from} is not a backup: {error.Message}", "name a folder that cursiva state backup made");
        }
    }

    // A backup may come from anywhere: its paths stay below the state folder.
    private static bool Confined(string path) => !Path.IsPathRooted(path) && !path.Split('/').Any(part => part is ".." or "." or "");

    private static void Verify(string from, BackupRecord record, CancellationToken cancel)
    {
        foreach (var file in record.Files)
        {
            cancel.ThrowIfCancellationRequested();
            var path = Path.Combine(from, file.Path);
            if (!File.Exists(path))
                throw Refuse($"{path} is missing", "the copy of the backup is incomplete; copy it again");
            if (HashOf(path) != file.Sha256)
                throw Refuse($"{path} has changed since the backup was made", "the copy of the backup is damaged; copy it again");
        }
    }

    private BackupRecord Copy(StateFolder state, string into, string version, string keyIs, CancellationToken cancel)
    {
        var at = clock.GetUtcNow();
        SqliteCopy.Copy(state.Database, Path.Combine(into, Path.GetFileName(state.Database)));
        var jobs = Path.Combine(state.Root, "jobs");
        if (Directory.Exists(jobs))
            CopyFolder(jobs, Path.Combine(into, "jobs"), cancel);
        var files = Directory.EnumerateFiles(into, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal)
            .Select(path => new BackupFile(Path.GetRelativePath(into, path), new FileInfo(path).Length, HashOf(path))).ToList();
        var record = new BackupRecord(BackupRecord.Now, version, at, Environment.MachineName, keyIs, files);
        WholeFile.Write(
            disk,
            Path.Combine(into, BackupRecord.FileName),
            JsonSerializer.SerializeToUtf8Bytes(record, OperationsJson.Default.BackupRecord));
        return record;
    }

    private void CopyFolder(string from, string to, CancellationToken cancel)
    {
        disk.CreateFolder(to);

        // Databases first: what they count on was written before them.
        foreach (var path in disk.List(from).Where(path => path.EndsWith(".db", StringComparison.Ordinal)))
            CopyDatabase(path, Path.Combine(to, Path.GetFileName(path)));
        foreach (var path in disk.List(from).Where(
            path => !path.EndsWith(".db", StringComparison.Ordinal)
                && !path.EndsWith(".db-wal", StringComparison.Ordinal)
                && !path.EndsWith(".db-shm", StringComparison.Ordinal)))
        {
            cancel.ThrowIfCancellationRequested();
            var name = Path.GetFileName(path);
            if (!s_left.Contains(name) && !name.EndsWith(".part", StringComparison.Ordinal))
                CopyFile(path, Path.Combine(to, name));
        }

        foreach (var name in disk.Folders(from))
            CopyFolder(Path.Combine(from, name), Path.Combine(to, name), cancel);
    }

    private static void CopyDatabase(string from, string to)
    {
        try
        {
            SqliteCopy.Copy(from, to);
        }
        catch (SqliteException) when (!File.Exists(from))
        {
            throw new FileNotFoundException(null, from);
        }
    }

    private void CopyFile(string from, string to)
    {
        using var source = new FileStream(from, FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
        using var target = disk.Create(to);
        using var stream = new DiskStream(target);
        source.CopyTo(stream);
        target.Flush();
    }

    private static string HashOf(string path)
    {
        using var file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
        return Convert.ToHexStringLower(SHA256.HashData(file));
    }

    private static RefusedException Refuse(string what, string next) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next });
}
