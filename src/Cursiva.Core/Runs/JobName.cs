using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// Which file a job's name belongs to. History hangs on the name, so that it survives a move of the file; two files of one name would mix
/// theirs.
/// </summary>
internal static class JobName
{
    private const string Kind = "job";

    /// <summary>Makes sure that the name belongs to this file alone, and remembers it.</summary>
    /// <exception cref="RefusedException">Another file has the same name.</exception>
    public static async Task ClaimAsync(Job job, IState state, CancellationToken cancel)
    {
        var known = await state.ReadAsync(Kind, job.Name, cancel) is { } bytes ? Encoding.UTF8.GetString(bytes) : null;
        if (known == job.Path)
            return;
        if (known is not null && File.Exists(known) && RealPath(known) != RealPath(job.Path) && JobReader.PeekName(known) == job.Name)
        {
            throw new RefusedException(new Refusal(
                Outcome.JobFileWrong, $"two files have the job name '{job.Name}': {known} and {job.Path}")
            {
                Cause = "history, marks and stopped runs belong to the name, so the two jobs would share them",
                NextStep =
                    $"if the first one is an old copy, remove it; if they are different jobs, write name: {job.Name}-2 into one of them, or give each its own state folder (--state)",
            });
        }

        await state.WriteAsync(Kind, job.Name, Encoding.UTF8.GetBytes(job.Path), cancel);
    }

    // Deployments often switch a link from one folder to the next.
    private static string RealPath(string path)
    {
        var at = "";
        foreach (var part in Path.GetFullPath(path).Split('/', StringSplitOptions.RemoveEmptyEntries))
        {
            at += "/" + part;
            FileSystemInfo info = Directory.Exists(at) ? new DirectoryInfo(at) : new FileInfo(at);
            at = info.ResolveLinkTarget(returnFinalTarget: true)?.FullName ?? at;
        }

        return at;
    }
}
