using System.Text.Json;
using Cursiva.Core.Files;

namespace Cursiva.Core.Runs;

/// <summary>The files by which a process that runs a job and others that look at it tell each other something.</summary>
/// <param name="folder">The job's folder in the state.</param>
public sealed class PulseFile(string folder)
{
    private string Path => System.IO.Path.Combine(folder, "pulse.json");

    private string StopPath => System.IO.Path.Combine(folder, "stop");

    /// <summary>What was told last; null where no run is going on.</summary>
    public Pulse? Read()
    {
        try
        {
            return JsonSerializer.Deserialize(File.ReadAllBytes(Path), RunRecordJson.Default.Pulse);
        }
        catch (Exception error) when (error is IOException or JsonException)
        {
            return null;
        }
    }

    /// <summary>Tells how the run goes. It is not flushed: after a crash nobody is at it.</summary>
    /// <exception cref="IOException">The folder cannot be written.</exception>
    public void Write(Pulse pulse)
    {
        File.WriteAllBytes(Path + ".part", JsonSerializer.SerializeToUtf8Bytes(pulse, RunRecordJson.Default.Pulse));
        File.Move(Path + ".part", Path, overwrite: true);
    }

    /// <summary>Nobody is at the run any more.</summary>
    public void Clear()
    {
        File.Delete(Path);
        File.Delete(StopPath);
    }

    /// <summary>Asks the process that runs the job to stop.</summary>
    /// <param name="disk">Where it is asked.</param>
    /// <param name="run">The run that is meant: a later one does not stop.</param>
    /// <exception cref="IOException">The folder cannot be written.</exception>
    public void AskToStop(IDisk disk, int run) => WholeFile.Write(disk, StopPath, System.Text.Encoding.ASCII.GetBytes($"{run}"));

    /// <summary>Whether somebody has asked this run to stop.</summary>
    public bool IsAskedToStop(int run)
    {
        try
        {
            return File.Exists(StopPath) && File.ReadAllText(StopPath) == $"{run}";
        }
        catch (IOException)
        {
            return false;
        }
    }
}
