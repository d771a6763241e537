using System.Globalization;

namespace Cursiva.Core.Files;

/// <summary>
/// A lock between processes of one machine (flock). The kernel gives it back when its process ends, however it ends, so a
/// killed process never blocks the next one.
/// </summary>
public sealed class ProcessLock : IDisposable
{
    private readonly FileStream _stream;

    private ProcessLock(FileStream stream, long times) => (_stream, Times) = (stream, times);

    /// <summary>How often the lock was taken, this time included.</summary>
    public long Times { get; }

    /// <summary>Takes the lock if it is free.</summary>
    /// <param name="holder">What others are told about the holder while it is held.</param>
    /// <param name="heldBy">What the present holder said of itself, when the lock is taken.</param>
    /// <returns>The lock, or null when another process has it.</returns>
    /// <exception cref="IOException">The lock file cannot be created.</exception>
    /// <exception cref="UnauthorizedAccessException">The lock file cannot be created.</exception>
    public static ProcessLock? TryTake(string path, string holder, out string heldBy)
    {
        heldBy = "";
        FileStream stream;
        try
        {
            stream = new FileStream(path, new FileStreamOptions
            {
                Mode = FileMode.OpenOrCreate,
                Access = FileAccess.ReadWrite,
                Share = FileShare.None,
                UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
            });
        }
        catch (IOException) when (File.Exists(path))
        {
            heldBy = ReadHolder(path).Holder;
            return null;
        }

        try
        {
            var times = ReadHolder(path).Times + 1;
            using var told = new FileStream(
                HolderPath(path),
                new FileStreamOptions
                {
                    Mode = FileMode.Create,
                    Access = FileAccess.Write,
                    UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                });
            told.Write(System.Text.Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{times}\n{holder}")));
            return new ProcessLock(stream, times);
        }
        catch
        {
            stream.Dispose();
            throw;
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _stream.Dispose();

    // A file of its own: one that is locked cannot be read.
    private static string HolderPath(string path) => path + "-holder";

    private static (long Times, string Holder) ReadHolder(string path)
    {
        try
        {
            var lines = File.ReadAllText(HolderPath(path)).Split('\n', 2);
            return (
                long.TryParse(lines[0], NumberStyles.None, CultureInfo.InvariantCulture, out var times) ? times : 0,
                lines.Length > 1 ? lines[1] : "");
        }
        catch (IOException)
        {
            return (0, "");
        }
    }
}
