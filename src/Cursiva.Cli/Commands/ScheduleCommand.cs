using System.CommandLine;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva schedule JOB</c>.</summary>
internal sealed class ScheduleCommand
{
    private const string OfMachine = "/etc/systemd/system";

    private readonly CommonOptions _common = new();
    private readonly Argument<string?> _job = new("JOB")
    {
        Description = "the job file, NAME.cursiva.yaml",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Option<string[]> _at = Several(
        "--at", "a time of day, such as 06:30; several separated by commas [the job's schedule:]");
    private readonly Option<string[]> _on = Several("--on", "the days: daily, weekdays, weekends, or mon,tue,...");
    private readonly Option<string[]> _cron = new("--cron")
    {
        Description = "a cron expression of five fields, instead of --at and --on; can be repeated",
        DefaultValueFactory = _ => [],
        HelpName = "EXPRESSION",
    };
    private readonly Option<string?> _zone = new("--zone") { Description = "the time zone of the times [the job's]" };
    private readonly Option<bool> _install = new("--install") { Description = "write the units, and show how to start them" };
    private readonly Option<bool> _ofUser = new("--user")
    {
        Description = "make units for this user, which run while the user is logged in or lingers [units of the machine]",
    };
    private readonly Option<bool> _unconfined = new("--unconfined")
    {
        Description = "with --user: run without namespaces, for systems that do not allow users to create them",
    };
    private readonly Option<string?> _into = new("--into")
    {
        Description = $"the folder of the units [{OfMachine}, or ~/.config/systemd/user]",
        HelpName = "FOLDER",
    };
    private readonly Option<string?> _runAs = new("--run-as")
    {
        Description = "the user that the service runs as [its own, or the owner of the reports' folder]",
        HelpName = "NAME",
    };
    private readonly Option<string> _credentials = new("--credentials")
    {
        Description = "the folder with the credentials, one file for each systemd: source",
        DefaultValueFactory = _ => "/etc/cursiva/credentials",
        HelpName = "FOLDER",
    };
    private readonly Option<bool> _encrypted = new("--encrypted")
    {
        Description = "the credentials were encrypted for this machine with systemd-creds",
    };
    private readonly Option<bool> _crontab = new("--crontab")
    {
        Description = "print lines for a crontab instead, for a machine without systemd",
    };
    private readonly Option<bool> _overview = new("--overview")
    {
        Description = "make the units that report what is late, with this job's deliveries that have when: late",
    };
    private readonly Option<bool> _list = new("--list") { Description = "list the units that this command installed" };
    private readonly Option<bool> _remove = new("--remove")
    {
        Description = "remove the units of the job, given by file or name",
    };

    public Command Build()
    {
        var command = new Command("schedule", "Make a systemd service and timer for a job, or a crontab line.")
        {
            _job, _at, _on, _cron, _zone, _install, _ofUser, _unconfined, _into, _runAs, _credentials, _encrypted, _crontab, _overview, _list, _remove,
            _common.Input, _common.InputsFrom, _common.EnvFile, _common.Format,
        };
        command.Validators.Add(result =>
        {
            if (result.GetValue(_job) is null && !result.GetValue(_list))
                result.AddError("name a job: cursiva schedule JOB; or list the units: cursiva schedule --list");
            if (result.GetValue(_cron) is { Length: > 0 }
                && (result.GetValue(_at) is { Length: > 0 } || result.GetValue(_on) is { Length: > 0 }))
                result.AddError("--cron includes the days; remove --at and --on");
            if (result.GetValue(_on) is { Length: > 0 } && result.GetValue(_at) is not { Length: > 0 })
                result.AddError("--on needs --at: --at 06:30 --on weekdays");
            if (result.GetValue(_unconfined) && !result.GetValue(_ofUser))
                result.AddError("--unconfined is only for --user; services of the machine are always confined");
            if (new[] { _install, _list, _remove, _crontab }.Count(option => result.GetValue(option)) > 1)
                result.AddError("--install, --list, --remove and --crontab exclude each other");
        });
        command.Executes(_common, (parsed, place, cancel) => Task.FromResult(Work(parsed, place)));
        return command;
    }

    private Outcome Work(ParseResult parsed, CommandContext place)
    {
        var ofUser = parsed.GetValue(_ofUser);
        var path = parsed.GetValue(_into)
            ?? (ofUser
                ? Path.Combine(
                    place.Environment("XDG_CONFIG_HOME") is { Length: > 0 } config
                        ? config
                        : Path.Combine(place.Environment("HOME") ?? "/", ".config"),
                    "systemd",
                    "user")
                : OfMachine);
        var (folder, manager) = (new UnitFolder(path, place.Disk), ofUser ? "systemctl --user" : "sudo systemctl");
        if (parsed.GetValue(_list))
            return List(folder, place);
        if (parsed.GetValue(_remove))
            return Remove(folder, NameOf(parsed.GetValue(_job)!), manager, place);

        var job = place.ReadJob(parsed.GetValue(_job)!);
        var order = new UnitOrder(Environment.ProcessPath ?? "/usr/bin/cursiva", [.. Passed(parsed)])
        {
            IsOfUser = ofUser,
            IsUnconfined = parsed.GetValue(_unconfined),
            RunAs = parsed.GetValue(_runAs),
            Credentials = parsed.GetValue(_credentials)!,
            AreEncrypted = parsed.GetValue(_encrypted),
        };
        if (parsed.GetValue(_crontab))
        {
            place.Terminal.Out.WriteLinesAsIs(CrontabLine.Of(job, ScheduleOf(parsed, job), order).TrimEnd('\n'));
            return Outcome.Done;
        }

        var units = parsed.GetValue(_overview)
            ? SystemdUnits.Overview(job, order)
            : SystemdUnits.Of(job, ScheduleOf(parsed, job), order, CommandContext.Clock.GetUtcNow());
        if (parsed.GetValue(_install))
            return Install(folder, units, job, order, manager, place);
        if (place.Json)
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize([.. units], CliJson.Default.UnitFileArray));
        else
            place.Terminal.Out.WriteLinesAsIs(
                string.Join('\n', units.Select(unit => $"# {Path.Combine(path, unit.Name)}\n{unit.Text}")).TrimEnd('\n'));
        place.Terminal.Error.Say($"Nothing was written. The same command with --install writes the units into {path}.");
        return Outcome.Done;
    }

    private static Outcome Install(
        UnitFolder folder, IReadOnlyList<UnitFile> units, Job job, UnitOrder order, string manager, CommandContext place)
    {
        var written = folder.Install(units);
        var to = place.Terminal.Out;
        foreach (var path in written)
            to.WriteLineAsIs($"wrote {path}");
        if (written.Count == 0)
            to.WriteLineAsIs("the units are already installed and up to date");
        foreach (var name in job.NamedSources
            .Where(source => source.Kind == SecretSource.Systemd)
            .Select(source => source.Name)
            .Distinct()
            .Where(name => !File.Exists(Path.Combine(order.Credentials, name))))
            place.Terminal.Error.Say(
                $"[yellow]Note:[/] the credential {Path.Combine(order.Credentials, name)} does not exist yet; the service needs it.");
        if (!order.IsOfUser && job.NamedSources.Any(source => source.Kind == SecretSource.Kept))
            place.Terminal.Error.Say(
                $"[yellow]Note:[/] the service has its own store, in {SystemdUnits.StateFolder}; kept: secrets of another user are not in it.");
        to.WriteLineAsIs(
            $"Next: {manager} daemon-reload && {manager} enable --now {string.Join(' ', units.Select(unit => unit.Name).Where(name => name.EndsWith(".timer", StringComparison.Ordinal)))}");
        return Outcome.Done;
    }

    private static Outcome List(UnitFolder folder, CommandContext place)
    {
        var units = folder.List();
        if (place.Json)
        {
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize([.. units], CliJson.Default.UnitFileArray));
            return Outcome.Done;
        }

        if (units.Count == 0)
        {
            place.Terminal.Out.WriteLineAsIs("cursiva schedule has not made any unit here.");
            return Outcome.Done;
        }

        var table = new FittedTable(("unit", false, 0), ("what", false, 0));
        foreach (var unit in units)
            table.Add(
                [
                    unit.Name,
                    string.Join(
                        ", ",
                        unit.Text
                            .Split('\n')
                            .Where(
                                line => line.StartsWith("OnCalendar=", StringComparison.Ordinal)
                                    || line.StartsWith("ExecStart=", StringComparison.Ordinal)
                                    || line.StartsWith("OnUnitActiveSec=", StringComparison.Ordinal))
                            .Select(line => line[(line.IndexOf('=') + 1)..])),
                ],
                null);
        table.Write(place.Terminal.Out);
        return Outcome.Done;
    }

    private static Outcome Remove(UnitFolder folder, string name, string manager, CommandContext place)
    {
        var removed = folder.Remove(name);
        if (removed.Count == 0)
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"there is no unit for job '{name}'")
                {
                    NextStep = "list the units: cursiva schedule --list",
                });
        foreach (var path in removed)
            place.Terminal.Out.WriteLineAsIs($"removed {path}");
        var timers = string.Join(
            ' ', removed.Select(path => Path.GetFileName(path)).Where(unit => unit.EndsWith(".timer", StringComparison.Ordinal)));
        place.Terminal.Out.WriteLineAsIs($"Next: {manager} stop {timers} && {manager} daemon-reload");
        return Outcome.Done;
    }

    private Schedule ScheduleOf(ParseResult parsed, Job job)
    {
        var (at, on, cron) = (Items(parsed.GetValue(_at)), Items(parsed.GetValue(_on)), parsed.GetValue(_cron)!);
        var zone = parsed.GetValue(_zone) is { } named ? ZoneOf(named) : job.Schedule?.Zone ?? job.Zone;
        if (at.Count + cron.Length == 0)
        {
            return (job.Schedule
                ?? throw new RefusedException(new Refusal(Outcome.WrongCommandLine, "neither the command nor the job says when to run")
                {
                    NextStep = "add --at 06:30 --on weekdays, or write schedule: { at: \"06:30\", on: weekdays } into the job",
                })) with
            { Zone = zone };
        }

        var times = new List<CronTime>();
        foreach (var text in at)
            times.Add(
                CronTime.TryParse(text, on)
                    ?? throw Wrong(
                        on.FirstOrDefault(day => !CronTime.Days.Contains(day)) is { } no
                            ? $"--on '{no}' is not a day; write {string.Join(", ", CronTime.Days)}"
                            : $"--at '{text}' is not a time of day; write 06:30"));
        foreach (var text in cron)
            times.Add(CronTime.TryParse(text) ?? throw Wrong($"--cron '{text}': {CronTime.Right}"));
        return new Schedule(
            times,
            cron.Length > 0
                ? string.Join("; ", cron)
                : $"{(on.Count == 0 ? "daily" : string.Join(", ", on))} at {string.Join(" and ", at)}",
            zone)
        {
            Spread = job.Schedule?.Spread ?? TimeSpan.FromMinutes(2),
        };
    }

    // What the runs of the service get, too.
    private IEnumerable<string> Passed(ParseResult parsed) =>
    [
        .. parsed.GetValue(_common.Input)!.SelectMany(pair => new[] { "--input", pair }),
        .. parsed.GetValue(_common.InputsFrom)!.SelectMany(file => new[] { "--inputs-from", Path.GetFullPath(file) }),
        .. parsed.GetValue(_common.EnvFile) is { } variables ? new[] { "--env-file", Path.GetFullPath(variables) } : [],
    ];

    private static string NameOf(string job) => File.Exists(job) && JobReader.PeekName(job) is { } name ? name : job;

    private static TimeZoneInfo ZoneOf(string name) =>
        TimeZoneInfo.TryFindSystemTimeZoneById(name, out var zone)
            ? zone
            : throw Wrong($"--zone '{name}' is not a time zone; write a name such as Europe/Oslo");

    private static RefusedException Wrong(string what) => new(new Refusal(Outcome.WrongCommandLine, what));

    private static IReadOnlyList<string> Items(string[]? texts) =>
        [.. (texts ?? []).SelectMany(text => text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))];

    private static Option<string[]> Several(string name, string description) => new(name)
    {
        Description = description,
        DefaultValueFactory = _ => [],
    };
}
