using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>Where a job keeps what its runs need, below the state folder.</summary>
public sealed class JobFolder
{
    public JobFolder(StateFolder state, Job job)
    {
        // Two jobs of one name in different folders are different jobs.
        var hash = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(job.Path)))[..8];
        var name = new string([.. job.Name.Select(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.' ? c : '_')]);
        Key = $"{name}-{hash}";
        Path = System.IO.Path.Combine(state.Root, "jobs", Key);
    }

    /// <summary>Names the job in state.</summary>
    public string Key { get; }

    public string Path { get; }

    /// <summary>The file that a running process holds locked.</summary>
    public string Lock => System.IO.Path.Combine(Path, "lock");

    /// <summary>The folder of one run.</summary>
    public string Of(int run) => System.IO.Path.Combine(Path, "runs", run.ToString("D6"));

    /// <summary>The landing of one run.</summary>
    public string LandingOf(int run) => System.IO.Path.Combine(Of(run), "landing");

    /// <summary>Pages of one run that were not understood, kept for inspection.</summary>
    public string OddPagesOf(int run) => System.IO.Path.Combine(Of(run), "odd-pages");

    /// <summary>The renames that one run may have left unfinished.</summary>
    public string RenamesOf(int run) => System.IO.Path.Combine(Of(run), "renames.json");
}
