namespace Cursiva.Cli.Tests;

/// <summary>
/// The program is killed at every single write, flush and rename of a small run; each time the next run ends with the same
/// bytes. Killing at random hardly ever meets these moments. One class a group of files, so that they are swept side by side.
/// </summary>
public abstract class MomentTests
{
    private static readonly string[] s_suffixes = ["", "-wal", "-journal", ".part"];

    /// <summary>Whether a path belongs to the files that are swept.</summary>
    private protected abstract bool Concerns(string path);

    private protected async Task SweepAsync(string calls, int atLeast, string? reports = null)
    {
        Tools.Require("strace");
        using var cloud = await StandIn.StartAsync("--rows", "120", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Consignments, reports ?? Pieces.All + "\n" + Pieces.Late);
        (await job.RunAsync()).ShouldEndWith(0);
        var undisturbed = job.Results();
        var paths = Directory.GetFileSystemEntries(job.Folder, "*", SearchOption.AllDirectories).Where(Concerns)
            .SelectMany(path => s_suffixes.Select(suffix => path + suffix).Append(Path.Combine(Path.GetDirectoryName(path)!, $".{Path.GetFileName(path)}.part")))
            .Append(Path.Combine(Directory.GetDirectories(job.State, "000001", SearchOption.AllDirectories).Single(), "renames.json.part"))
            .SelectMany(path => new[] { "-P", path }).ToArray();

        var killed = 0;
        for (var n = 1; ; n++)
        {
            Directory.Delete(job.State, recursive: true);
            Directory.Delete(job["reports"], recursive: true);

            // strace counts by thread: one thread for all that goes on in the background makes the count complete.
            var ended = await App.RunAsync(
                "strace",
                ["-f", "-qq", "-o", "/dev/null", .. paths, "-e", $"trace={calls}", "-e", $"inject={calls}:signal=KILL:when={n}", App.Cursiva, "run", job.Path],
                job.Folder,
                [.. job.Environment, ("DOTNET_ThreadPool_ForceMaxWorkerThreads", "1")]);
            foreach (var file in Directory.Exists(job["reports"]) ? Directory.GetFiles(job["reports"], "[a-z]*") : [])
                File.ReadAllBytes(file).ShouldBe(undisturbed["reports/" + Path.GetFileName(file)], $"{file} is not whole after a kill at {calls} {n}");
            if (ended.Code == 0)
                break;

            ended.Code.ShouldBe(137, ended.All);
            killed++;
            (await job.RunAsync()).ShouldEndWith(0);
            job.ShouldHave(undisturbed);
        }

        killed.ShouldBeGreaterThanOrEqualTo(atLeast, "the sweep must have met what it is for");
    }
}

public sealed class LandingMomentTests : MomentTests
{
    [Theory]
    [InlineData("pwrite64", 4)]
    [InlineData("fsync,fdatasync", 4)]
    public Task A_run_that_dies_while_it_lands_is_gone_on_with(string calls, int atLeast) => SweepAsync(calls, atLeast);

    private protected override bool Concerns(string path) => path.Contains("/landing");
}

public sealed class ReportMomentTests : MomentTests
{
    [Theory]
    [InlineData("pwrite64", 3)]
    [InlineData("fsync,fdatasync", 3)]
    [InlineData("rename,renameat,renameat2", 5)]
    public Task A_run_that_dies_while_it_writes_is_gone_on_with(string calls, int atLeast) => SweepAsync(calls, atLeast);

    private protected override bool Concerns(string path) => path.Contains("/reports") || path.EndsWith("/renames.json", StringComparison.Ordinal);
}

public sealed class StateMomentTests : MomentTests
{
    [Theory]
    [InlineData("pwrite64", 4)]
    [InlineData("fsync,fdatasync", 4)]
    public Task A_run_that_dies_while_it_keeps_its_record_is_gone_on_with(string calls, int atLeast) => SweepAsync(calls, atLeast);

    private protected override bool Concerns(string path) => Path.GetFileName(path).StartsWith("state.db", StringComparison.Ordinal);
}

public sealed class FormatMomentTests : MomentTests
{
    /// <summary>Files of every format that does not tell its own time appear together, whenever the program dies between their renames.</summary>
    [Fact]
    public Task A_run_that_dies_between_the_files_of_a_report_is_gone_on_with() => SweepAsync(
        "rename,renameat,renameat2",
        8,
        "all: { sql: select * from consignments order by reference, write: [a.csv, a.jsonl, a.json, a.parquet, a.sqlite, a.csv.gz, a.csv.zst] }");

    private protected override bool Concerns(string path) => path.Contains("/reports/");
}

/// <summary>Every single flush of rows, of reports and of their folders fails once: the run says so, and the next one ends as ever.</summary>
public sealed class FailedFlushTests
{
    [Theory]
    [InlineData("EIO")]
    [InlineData("ENOSPC")]
    public async Task A_flush_that_fails_ends_the_run_and_loses_nothing(string error)
    {
        Tools.Require("strace");
        using var cloud = await StandIn.StartAsync("--rows", "120", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All + "\n" + Pieces.Late);
        (await job.RunAsync()).ShouldEndWith(0);
        var undisturbed = job.Results();
        var paths = Directory.GetFileSystemEntries(job.Folder, "*", SearchOption.AllDirectories)
            .Where(path => path.EndsWith(".jsonl", StringComparison.Ordinal) || path.Contains("/reports") || path.EndsWith("/consignments", StringComparison.Ordinal))
            .SelectMany(path => new[] { path, path + ".part", Path.Combine(Path.GetDirectoryName(path)!, $".{Path.GetFileName(path)}.part") })
            .SelectMany(path => new[] { "-P", path }).ToArray();

        var failed = 0;
        for (var n = 1; ; n++)
        {
            Directory.Delete(job.State, recursive: true);
            Directory.Delete(job["reports"], recursive: true);
            var ended = await App.RunAsync(
                "strace",
                ["-f", "-qq", "-o", job["trace"], .. paths, "-e", "trace=fsync,fdatasync", "-e", $"inject=fsync,fdatasync:error={error}:when={n}", App.Cursiva, "run", job.Path],
                job.Folder,
                [.. job.Environment, ("DOTNET_ThreadPool_ForceMaxWorkerThreads", "1")]);
            if (!File.ReadAllText(job["trace"]).Contains("INJECTED"))
                break;

            failed++;
            ended.Code.ShouldBeOneOf(1, 8);
            ended.Error.ShouldContain(error == "EIO" ? "Input/output error" : "No space left");
            foreach (var file in Directory.Exists(job["reports"]) ? Directory.GetFiles(job["reports"], "[a-z]*") : [])
                File.ReadAllBytes(file).ShouldBe(undisturbed["reports/" + Path.GetFileName(file)], $"{file} is not whole after flush {n} failed");
            (await job.RunAsync()).ShouldEndWith(0);
            job.ShouldHave(undisturbed);
        }

        failed.ShouldBeGreaterThanOrEqualTo(5, "the sweep must have met what it is for");
    }
}
