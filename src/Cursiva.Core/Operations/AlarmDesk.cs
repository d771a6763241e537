using System.Text;
using Cursiva.Core.State;

namespace Cursiva.Core.Operations;

/// <summary>Remembers what was told of jobs, so that each condition is told once, and once more when it is over.</summary>
/// <param name="teller">The job whose deliveries tell it: another one hears everything again.</param>
public sealed class AlarmDesk(IState state, string teller)
{
    private const string Kind = "alarm";
    private const string CountKind = "alarms";

    /// <summary>What is new, and what is over; null where nothing is to be told.</summary>
    /// <param name="look">How all jobs stand.</param>
    public async Task<Alarm?> LookAsync(JobsLook look, CancellationToken cancel)
    {
        var told = (await state.RangeAsync(Kind, Prefix, Prefix + "~", cancel)).ToDictionary(
            pair => pair.Key, pair => Encoding.UTF8.GetString(pair.Value), StringComparer.Ordinal);
        var present = look.Jobs
            .SelectMany(
                job => job.Conditions.Where(condition => !IsOwn(job, condition)).Select(
                    condition => (Key: $"{Prefix}{job.Job}/{condition.Key}", Words: $"{job.Job}: {condition.Words}")))
            .ToList();
        var begun = present.Where(condition => !told.ContainsKey(condition.Key)).ToList();
        var over = told.Where(pair => present.TrueForAll(condition => condition.Key != pair.Key)).ToList();
        if (begun.Count + over.Count == 0)
            return null;
        var text = new StringBuilder();
        foreach (var (_, words) in begun)
            text.Append(words).Append('\n');
        foreach (var (_, words) in over)
            text.Append("over: ").Append(words).Append('\n');
        text.Append($"Looked at {look.Jobs.Count} {(look.Jobs.Count == 1 ? "job" : "jobs")} at {look.At:yyyy-MM-dd HH:mm}Z; cursiva overview{(look.Places.Length > 0 ? " " : "")}{look.Places} shows them all.");
        return new Alarm(
            await NumberAsync(cancel),
            text.ToString(),
            [.. begun.Select(condition => KeyValuePair.Create(condition.Key, condition.Words))],
            [.. over.Select(pair => pair.Key)]);
    }

    /// <summary>Remembers that an alarm is in the ledger, from where it leaves by itself.</summary>
    public async Task ToldAsync(Alarm alarm, CancellationToken cancel)
    {
        await state.WriteAllAsync(
            Kind, [.. alarm.Begun.Select(pair => KeyValuePair.Create(pair.Key, Encoding.UTF8.GetBytes(pair.Value)))], cancel);
        foreach (var key in alarm.Over)
            await state.DeleteAsync(Kind, key, cancel);
        await state.WriteAsync(CountKind, teller, Encoding.UTF8.GetBytes($"{alarm.Number}"), cancel);
    }

    // That an alarm has not left cannot be told by another one.
    private bool IsOwn(JobStanding job, JobCondition condition) => job.Job == teller && condition.Key is ("pending" or "in-doubt");

    private string Prefix => teller + "/";

    // An alarm that was entered and not remembered gets the same number again, and so is the same entry of the ledger.
    private async Task<int> NumberAsync(CancellationToken cancel) =>
        (await state.ReadAsync(CountKind, teller, cancel) is { } document
            ? int.Parse(Encoding.UTF8.GetString(document), System.Globalization.CultureInfo.InvariantCulture)
            : 0) + 1;
}
