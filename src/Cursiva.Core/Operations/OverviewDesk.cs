using System.Globalization;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Core.Operations;

/// <summary>Looks at every job of a state folder, and at job files that never ran.</summary>
/// <param name="environment">Looks up an environment variable, for the inputs of jobs.</param>
public sealed class OverviewDesk(IState state, StateFolder folder, Func<string, string?> environment, TimeProvider clock)
{
    /// <summary>How far back the history goes.</summary>
    public const int Days = 90;

    private const string JobKind = "job";
    private const double SlackS = 60;

    /// <summary>Looks.</summary>
    /// <param name="places">Job files, and folders of them, that may not have run yet.</param>
    public async Task<JobsLook> LookAsync(IReadOnlyList<string> places, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        var history = (await new HistoryBook(state).SinceAsync(now.AddDays(-Days), null, cancel)).ToLookup(
            line => line.Job, StringComparer.Ordinal);
        var known = new SortedDictionary<string, string>(StringComparer.Ordinal);
        foreach (var (name, path) in await state.RangeAsync(JobKind, "", "~", cancel))
            known[name] = Encoding.UTF8.GetString(path);
        foreach (var path in places.SelectMany(Files))
            known.TryAdd(JobReader.PeekName(path) ?? Path.GetFileName(path), Path.GetFullPath(path));
        var jobs = new List<JobStanding>();
        foreach (var (name, path) in known)
            jobs.Add(await StandingAsync(name, path, [.. history[name]], now, cancel));
        return new JobsLook(now, Days, jobs) { Places = string.Join(' ', places.Select(place => ShellWord.Of(Path.GetFullPath(place)))) };
    }

    private static IEnumerable<string> Files(string place) => Directory.Exists(place)
        ? Directory.EnumerateFiles(
            place, "*.cursiva.yaml", new EnumerationOptions { RecurseSubdirectories = true, IgnoreInaccessible = true }).Order(
            StringComparer.Ordinal)
        : [place];

    private async Task<JobStanding> StandingAsync(
        string name, string path, IReadOnlyList<HistoryLine> history, DateTimeOffset now, CancellationToken cancel)
    {
        var jobFolder = new JobFolder(folder, name);
        var (job, broken) = Read(path, now);
        var record = (await new RunStore(state, jobFolder).NewestAsync(1, cancel)) is [.., var newest] ? newest : null;
        var last = record is null ? null : HistoryLine.Of(name, record);
        var running = await new PulseBoard(state.Notes, name).ReadAsync(cancel) is { } pulse && pulse.IsAlive(now) ? pulse : null;
        var schedule = job?.Expected ?? job?.Schedule;
        var entries = await new LedgerBook(state, name, clock).EntriesAsync(cancel);
        var rows = Before(history, last, line => line.Rows);
        var took = Before(history, last, line => line.TookS);
        var standing = new JobStanding(name, job?.Title ?? name, "", path)
        {
            Last = last,
            LastGood = history.LastOrDefault(line => line.State == RunPhase.Done)?.EndedAt,
            Running = running,
            UsualRows = rows?.Median,
            UsualS = took?.Median,
            Schedule = schedule?.Words,
            NextDue = schedule?.After(now),
            Resumable = job is not null && running is null && record is { IsFinished: false } && now - record.StartedAt < job.ResumeWithin,
            Pending = entries.Count(entry => entry.Phase is LedgerPhase.Ready or LedgerPhase.Sending),
            InDoubt = entries.Count(entry => entry.Phase == LedgerPhase.InDoubt),
            Expiries = [.. (record?.Expiries ?? []).Where(expiry => expiry.IsSoon(now))],
            Bytes = DiskSpace.Below(jobFolder.Path),
            Limits = job is null ? [] : await LimitUses.OfAsync(job, state, cancel),
            RequestsInHour = RequestsSince(history, now.AddHours(-1)),
            RequestsInDay = RequestsSince(history, now.AddDays(-1)),
            History = history,
        };
        var late = schedule is null
            ? null
            : DueTimes.LateSince(schedule, since => IsGoodSince(history, last, since), KnownSince(path, last), now);
        var conditions = Conditions(standing, broken, late, schedule, rows, took, now).ToList();
        return standing with { Conditions = conditions, State = StateOf(standing, late is not null, File.Exists(path)) };
    }

    private static IEnumerable<JobCondition> Conditions(
        JobStanding job, string? broken, DateTimeOffset? late, Schedule? schedule, Usual? rows, Usual? took, DateTimeOffset now)
    {
        if (broken is not null)
            yield return new("broken", broken);
        if (late is { } due)
            yield return new(
                "late",
                $"no good run since it was due at {Local(due, schedule!.Zone)}{(job.Running is null ? "" : "; it is running now")}");
        if (job is { Last: { State: RunPhase.Stopped } stopped, Running: null }
            && stopped.ExitCode is not ((int)Outcome.StoppedResumable or (int)Outcome.Interrupted or (int)Outcome.Terminated))
            yield return new(
                "failed", $"run {stopped.Run} failed with code {stopped.ExitCode}{(stopped.Note is { } note ? $": {note}" : "")}");
        if (job is { Last: { State: RunPhase.Running } killed, Running: null })
            yield return new("killed", $"run {killed.Run} was killed, or its machine went down; the next start resumes it");
        if (job.Last is { State: RunPhase.Done } done)
        {
            if (rows?.IsUnusual(done.Rows) == true)
                yield return new(
                    "unusual-rows", $"run {done.Run} landed {done.Rows:N0} rows; usual are {rows.Least:N0} to {rows.Most:N0}");
            if (took?.IsUnusual(done.TookS, SlackS) == true)
                yield return new(
                    "unusual-time",
                    $"run {done.Run} took {Durations.ForPeople(TimeSpan.FromSeconds(done.TookS))}; {Durations.ForPeople(TimeSpan.FromSeconds(took.Least))} to {Durations.ForPeople(TimeSpan.FromSeconds(took.Most))} is usual");
        }

        if (job.InDoubt > 0)
            yield return new(
                "in-doubt",
                $"{job.InDoubt} {(job.InDoubt == 1 ? "delivery or write is" : "deliveries and writes are")} in doubt: cursiva ledger JOB");
        if (job.Pending > 0 && job.Running is null)
            yield return new(
                "pending",
                $"{job.Pending} {(job.Pending == 1 ? "delivery or write has" : "deliveries and writes have")} not been sent: cursiva deliver JOB");
        foreach (var expiry in job.Expiries)
            yield return new($"ends:{expiry.Kind} {expiry.Of}", expiry.Words(now));
    }

    private static string StateOf(JobStanding job, bool isLate, bool isThere) =>
        job.Running is not null ? "running"
        : !isThere ? "gone"
        : isLate ? "late"
        : job.Last is not { } last ? "never ran"
        : last.State switch
        {
            RunPhase.Done => "done",
            RunPhase.Running => "killed",
            RunPhase.SetAside => "stopped",
            RunPhase.Stopped => last.ExitCode is (int)Outcome.StoppedResumable or (int)Outcome.Interrupted or (
                int)Outcome.Terminated ? "stopped" : "failed",
        };

    private static Usual? Before(IReadOnlyList<HistoryLine> history, HistoryLine? last, Func<HistoryLine, double> value) =>
        Usual.Of(history.Where(line => line.State == RunPhase.Done && line.Run != last?.Run).Select(value));

    private static bool IsGoodSince(IReadOnlyList<HistoryLine> history, HistoryLine? last, DateTimeOffset since) =>
        history.Concat(last is null ? [] : new[] { last }).Any(line => line.State == RunPhase.Done && line.EndedAt > since);

    private static long RequestsSince(IReadOnlyList<HistoryLine> history, DateTimeOffset since) =>
        history.Where(line => line.StartedAt >= since).Sum(line => line.Requests);

    // A file that was put there this morning was not due yesterday.
    private static DateTimeOffset KnownSince(string path, HistoryLine? last) =>
        last is not null ? DateTimeOffset.MinValue : File.Exists(path) ? new DateTimeOffset(
            File.GetLastWriteTimeUtc(path), TimeSpan.Zero) : DateTimeOffset.MaxValue;

    private (Job? Job, string? Broken) Read(string path, DateTimeOffset now)
    {
        if (!File.Exists(path))
            return (null, null);
        try
        {
            return (JobReader.Read(path, new GivenInputs([], [], environment), now), null);
        }
        catch (JobMistakesException error)
        {
            return (
                error.Job,
                $"the job file has {error.Mistakes.Count} {(error.Mistakes.Count == 1 ? "mistake" : "mistakes")}: {error.Mistakes[0].Found}");
        }
    }

    private static string Local(DateTimeOffset time, TimeZoneInfo zone) =>
        string.Create(CultureInfo.InvariantCulture, $"{TimeZoneInfo.ConvertTime(time, zone):ddd yyyy-MM-dd HH:mm} ({zone.Id})");
}
