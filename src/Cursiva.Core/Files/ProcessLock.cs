namespace Cursiva.Core.Files;

/// <summary>
/// A lock between processes of one machine (flock). The kernel gives it back when its process ends, however it ends, so a
/// killed process never blocks the next one.
/// </summary>
public sealed class ProcessLock : IDisposable
{
    private static readonly TimeSpan s_lookAgain = TimeSpan.FromMilliseconds(15);

    private readonly FileStream _stream;

    private ProcessLock(FileStream stream) => _stream = stream;

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
            heldBy = ReadHolder(path);
            return null;
        }

        try
        {
            using var told = new FileStream(HolderPath(path), new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite });
            told.Write(System.Text.Encoding.UTF8.GetBytes(holder));
            return new ProcessLock(stream);
        }
        catch
        {
            stream.Dispose();
            throw;
        }
    }

    /// <summary>Waits for the lock and takes it.</summary>
    /// <exception cref="IOException">The lock file cannot be created.</exception>
    public static async Task<ProcessLock> TakeAsync(string path, string holder, TimeProvider clock, CancellationToken cancel)
    {
        while (true)
        {
            if (TryTake(path, holder, out _) is { } taken)
                return taken;
            await Task.Delay(s_lookAgain, clock, cancel);
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _stream.Dispose();

    // A file of its own: one that is locked cannot be read.
    private static string HolderPath(string path) => path + "-holder";

    private static string ReadHolder(string path)
    {
        try
        {
            return File.ReadAllText(HolderPath(path));
        }
        catch (IOException)
        {
            return "";
        }
    }
}
