using System.Globalization;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>Where a job keeps what its runs need, below the state folder.</summary>
public sealed class JobFolder
{
    private readonly string _root;

    /// <summary>The folder of one job under the state folder.</summary>
    public JobFolder(StateFolder state, Job job)
        : this(state, job.Name)
    {
    }

    /// <summary>The folder of the job of a name.</summary>
    public JobFolder(StateFolder state, string name)
    {
        _root = state.Root;

        // Wherever the file lies: a job that is moved keeps its history. A name has no characters that a path could trip over.
        Key = name;
        Path = System.IO.Path.Combine(state.Root, "jobs", Key);
    }

    /// <summary>Names a folder below the state folder, the same on every machine.</summary>
    public string NameOf(string folder) => System.IO.Path.GetRelativePath(_root, folder);

    /// <summary>Names the job in state.</summary>
    public string Key { get; }

    /// <summary>The absolute path.</summary>
    public string Path { get; }

    /// <summary>The lease that whoever runs the job holds.</summary>
    public string Lease => $"job/{Key}";

    /// <summary>What is to leave the machine, as it will leave.</summary>
    public string Outbox => System.IO.Path.Combine(Path, "outbox");

    /// <summary>The folder of one run.</summary>
    public string Of(int run) => System.IO.Path.Combine(Path, "runs", run.ToString("D6"));

    /// <summary>The numbers of the runs that have a folder, in order.</summary>
    public IReadOnlyList<int> Numbers(IDisk disk) =>
        [.. disk.Folders(System.IO.Path.Combine(Path, "runs"))
            .Select(name => int.TryParse(name, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 0)
            .Where(number => number > 0)
            .Order()];

    /// <summary>The landing of one run.</summary>
    public string LandingOf(int run) => System.IO.Path.Combine(Of(run), "landing");

    /// <summary>The rows of a pull as they were after a run, made of that run's landing and of those before it.</summary>
    public string FoldOf(int run, string pull) => System.IO.Path.Combine(Of(run), "folded", pull);

    /// <summary>Pages of one run that were not understood, kept for inspection.</summary>
    public string OddPagesOf(int run) => System.IO.Path.Combine(Of(run), "odd-pages");

    /// <summary>What became of the items that one run's writes worked on.</summary>
    public string WrittenOf(int run) => System.IO.Path.Combine(Of(run), "written.jsonl");

    /// <summary>The renames that one run may have left unfinished.</summary>
    public string RenamesOf(int run) => System.IO.Path.Combine(Of(run), "renames.json");
}
