using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>A job file that a command is about to write. What is there is replaced only where somebody said so.</summary>
internal sealed class NewJobFile
{
    private NewJobFile(string path) => Path = path;

    public string Path { get; }

    /// <summary>Makes sure, before anything is asked, that the file may be written.</summary>
    /// <exception cref="RefusedException">It is there, has another name than a job's, or its folder is missing.</exception>
    public static NewJobFile At(string path, bool force)
    {
        if (!path.EndsWith(JobReader.Suffix, StringComparison.Ordinal))
            throw Refuse($"'{path}' is not a job-file name", $"write NAME{JobReader.Suffix}");
        if (!JobReader.CanName(System.IO.Path.GetFileName(path)[..^JobReader.Suffix.Length]))
            throw Refuse(
                $"'{System.IO.Path.GetFileName(path)}' does not name a job", $"use {JobReader.NameRule}, followed by {JobReader.Suffix}");
        if (Directory.Exists(path) || (File.Exists(path) && !force))
            throw Refuse($"{path} already exists", "choose another name, or replace it with --force");
        if (System.IO.Path.GetDirectoryName(System.IO.Path.GetFullPath(path)) is { } folder && !Directory.Exists(folder))
            throw Refuse($"there is no folder {folder}", "create it, or choose another one");
        return new NewJobFile(path);
    }

    public void Write(string text, IDisk disk) =>
        WholeFile.Write(disk, System.IO.Path.GetFullPath(Path), Encoding.UTF8.GetBytes(text), shared: true);

    private static RefusedException Refuse(string what, string next) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next });
}
