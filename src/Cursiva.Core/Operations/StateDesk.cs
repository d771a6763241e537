using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Landing;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Core.Operations;

/// <summary>Looks at a state folder: what it takes, and whether it is as it was written.</summary>
public sealed class StateDesk(StateFolder folder, IDisk disk, TimeProvider clock)
{
    private const string JobKind = "job";
    private const string RunKind = "run";

    /// <summary>What each job takes.</summary>
    /// <param name="keyIs">Where the key of the store is, in words.</param>
    /// <param name="secrets">Secrets that are kept in the store.</param>
    public async Task<StateSizes> SizesAsync(IState state, string keyIs, int secrets, CancellationToken cancel)
    {
        var jobs = new List<JobSize>();
        foreach (var (name, path) in await state.RangeAsync(JobKind, "", "~", cancel))
        {
            var job = new JobFolder(folder, name);
            var numbers = job.Numbers(disk);
            var runs = await state.RangeAsync(RunKind, name + "/", name + "0", cancel);
            jobs.Add(new JobSize(
                name, Encoding.UTF8.GetString(path), runs.Count, numbers.Count(
                    number => disk.Exists(Path.Combine(job.LandingOf(number), "pages.db"))),
                DiskSpace.Below(job.Path), numbers.Sum(number => DiskSpace.Below(job.Of(number)))));
        }

        var database = new[] { "", "-wal" }.Select(ending => new FileInfo(folder.Database + ending)).Where(file => file.Exists).Sum(
            file => file.Length);
        return new StateSizes(folder.Root, SqliteState.Format, database, keyIs, secrets, jobs);
    }

    /// <summary>Compares every page of every landing with its checksum, and has SQLite look at its files.</summary>
    /// <param name="looking">Is told each landing before it is looked at.</param>
    public async Task<VerifiedState> VerifyAsync(IState state, Action<string> looking, CancellationToken cancel)
    {
        var damage = new List<string>();
        var left = new List<string>();
        var (landings, pages) = (0, 0L);
        if (folder.IsOfOneMachine && SqliteCare.Damage(folder.Database) is { } wrong)
            damage.Add($"{folder.Database}: {wrong}");
        foreach (var name in disk.Folders(Path.Combine(folder.Root, "jobs")))
        {
            var job = new JobFolder(folder, name);
            var running = (await new PulseBoard(state.Notes, name).AliveAsync(clock, cancel))?.Run ?? 0;
            foreach (var number in job.Numbers(disk))
            {
                cancel.ThrowIfCancellationRequested();
                if (number == running)
                {
                    left.Add(job.LandingOf(number));
                    continue;
                }

                var folds = Path.Combine(job.Of(number), "folded");
                foreach (var landing in disk.Folders(folds).Select(fold => Path.Combine(folds, fold)).Prepend(job.LandingOf(number)).Where(
                    landing => disk.Exists(Path.Combine(landing, "pages.db"))))
                {
                    looking(landing);
                    damage.AddRange(LandingCheck.Look(disk, landing, out var seen));
                    (landings, pages) = (landings + 1, pages + seen);
                }
            }
        }

        return new VerifiedState(landings, pages, damage, left);
    }
}
