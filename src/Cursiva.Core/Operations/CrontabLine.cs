using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Operations;

/// <summary>Writes the lines of a crontab that run a job, for machines without systemd.</summary>
public static class CrontabLine
{
    /// <summary>The lines; the zone stands above them, as most crons read it.</summary>
    /// <exception cref="RefusedException">A cron of its own would take an expression otherwise.</exception>
    public static string Of(Job job, Schedule schedule, UnitOrder order)
    {
        if (schedule.Times.FirstOrDefault(
            time => time.Text.Split(
                ' ', StringSplitOptions.RemoveEmptyEntries) is [_, _, not ("*" or "?"), _, not ("*" or "?")]) is { } both)
        {
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"'{both.Text}' has a day of the month and a day of the week")
            {
                Cause = "here both must match; a crontab runs it if either does",
                NextStep = $"remove one of them, or use a systemd timer: cursiva schedule {ShellWord.Of(job.Path)} --install",
            });
        }

        var command = string.Join(' ', new[] { order.Program, "run", job.Path }.Concat(order.Arguments).Select(ShellWord.Of)).Replace(
            "%", "\\%", StringComparison.Ordinal);
        return $"CRON_TZ={schedule.Zone.Id}\n" + string.Concat(schedule.Times.Select(time => $"{time.Text}  {command}\n"));
    }
}
