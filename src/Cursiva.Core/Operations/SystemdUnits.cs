using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Operations;

/// <summary>
/// Writes the systemd units of a job: a service of type oneshot and its timer. The service is confined, has its own state folder, loads the
/// credentials that the job names, and starts again where that can help.
/// </summary>
public static class SystemdUnits
{
    /// <summary>What every unit of ours begins with; others are left alone.</summary>
    public const string Mark = "# Made by cursiva schedule";

    /// <summary>The first two lines of the units of a job.</summary>
    public static string HeadOf(string job) => $"{Mark}\n# for job {job}";

    /// <summary>The state folder of the machine's services.</summary>
    public const string StateFolder = "/var/lib/cursiva";

    /// <summary>The name that the units of a job have, without their ending.</summary>
    public static string NameOf(string job) => $"cursiva-{job}";

    /// <summary>The units of a job.</summary>
    /// <param name="schedule">When it runs.</param>
    /// <param name="now">From when the pauses between its runs are counted.</param>
    /// <exception cref="RefusedException">A time cannot be written for systemd, or nobody may write where the job writes.</exception>
    public static IReadOnlyList<UnitFile> Of(Job job, Schedule schedule, UnitOrder order, DateTimeOffset now)
    {
        var name = NameOf(job.Name);
        var calendars = schedule.Times.Select(time => Calendar(time, schedule.Zone));
        List<UnitFile> units =
        [
            new($"{name}.service", Service(job, order, $"Cursiva: {OneLine(job.Title)}", ["run", job.Path, .. order.Arguments])),
            new($"{name}.timer", Timer(job, $"Starts {name}: {schedule.Words} ({schedule.Zone.Id})", calendars, schedule.Spread)),
        ];
        foreach (var identity in job.Identities.Values.Where(
            identity => identity.Refreshes && identity.RefreshTokenLives is { } lives && lives < schedule.LongestPause(now) * 1.1))
            units.AddRange(KeepAlive(job, identity, order));
        return units;
    }

    /// <summary>The units that look after all jobs of the machine: an overview every so often, which tells what is late.</summary>
    /// <param name="watching">The job whose deliveries tell it.</param>
    public static IReadOnlyList<UnitFile> Overview(Job watching, UnitOrder order) =>
    [
        new(
            "cursiva-overview.service",
            Service(
                watching,
                order,
                "Cursiva: reports what is late, failed or about to expire",
                ["overview", "--late", watching.Path, .. order.Arguments])),
        new(
            "cursiva-overview.timer",
            Timer(watching, "Starts cursiva-overview every quarter of an hour", ["*-*-* *:00/15:00 UTC"], TimeSpan.FromMinutes(1))),
    ];

    // A token that nobody uses for as long as it lives is gone; a third of that leaves two more tries.
    private static IEnumerable<UnitFile> KeepAlive(Job job, DeclaredIdentity identity, UnitOrder order)
    {
        var name = $"{NameOf(job.Name)}-{identity.Name}-token";
        yield return new(
            $"{name}.service",
            Service(
                job,
                order,
                $"Cursiva: keeps the refresh token of {identity.Name} alive",
                ["token", "get", job.Path, identity.Name, .. order.Arguments]));
        yield return new($"{name}.timer", $"""
            {HeadOf(job.Name)}
            [Unit]
            Description=Starts {name} well before the refresh token ends ({Durations.ForPeople(identity.RefreshTokenLives!.Value)} without use)

            [Timer]
            OnActiveSec=1h
            OnUnitActiveSec={(long)(identity.RefreshTokenLives.Value / 3).TotalSeconds}s
            RandomizedDelaySec=5m

            [Install]
            WantedBy=timers.target

            """);
    }

    private static string Calendar(CronTime time, TimeZoneInfo zone) => SystemdCalendar.Of(time.Text, zone)
        ?? throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"'{time.Text}' has something that systemd cannot express")
        {
            Cause = "a timer knows numbers, names, lists, ranges and steps; not L, W, # and ?",
            NextStep = "write at: and on:, or several cron expressions; or schedule it with --crontab",
        });

    private static string Timer(Job job, string description, IEnumerable<string> calendars, TimeSpan spread) => $"""
        {HeadOf(job.Name)}
        [Unit]
        Description={description}
        Documentation=man:cursiva(1)

        [Timer]
        {string.Join('\n', calendars.Select(calendar => $"OnCalendar={calendar}"))}
        RandomizedDelaySec={(long)spread.TotalSeconds}s
        # A time at which the machine was off is made up for.
        Persistent=yes

        [Install]
        WantedBy=timers.target

        """;

    private static string Service(Job job, UnitOrder order, string description, IReadOnlyList<string> command)
    {
        var text = new StringBuilder($"""
            {HeadOf(job.Name)}
            [Unit]
            Description={Escape(description)}
            Documentation=man:cursiva(1)
            Wants=network-online.target
            After=network-online.target
            # A failure that repeats itself is not tried all day.
            StartLimitIntervalSec=1d
            StartLimitBurst=12

            [Service]
            Type=oneshot
            ExecStart={string.Join(' ', command.Prepend(order.Program).Select(Quote))}

            """);
        text.Append(ServiceUser.Lines(job, order));
        foreach (var credential in job.NamedSources
            .Where(source => source.Kind == SecretSource.Systemd && !source.Name.Contains('{', StringComparison.Ordinal))
            .Select(source => source.Name)
            .Distinct())
            text.Append(
                $"LoadCredential{(order.AreEncrypted ? "Encrypted" : "")}={Escape(credential)}:{Escape(Path.Combine(order.Credentials, credential))}\n");
        if (job.NamedSources.Any(source => source.Kind == SecretSource.Environment))
            text.Append(
                $"# {string.Join(", ", job.NamedSources.Where(source => source.Kind == SecretSource.Environment).Select(source => source.Name).Distinct())}\nEnvironmentFile=-{Escape(Path.Combine(Path.GetDirectoryName(order.Credentials) ?? "/etc/cursiva", job.Name + ".env"))}\n");
        return text.Append("""
            # 10: another start of the job is at it. 130 and 143: stopped as asked, and resumed by the next start.
            SuccessExitStatus=10 130 143
            # 7, stopped at its deadline, and failures of the API are resumed; what is wrong in the job, the sign-in or the rows is no better in ten minutes.
            Restart=on-failure
            RestartSec=10m
            RestartPreventExitStatus=2 3 4 6 8 9
            # A write in flight and the exchange of a refresh token are finished first.
            TimeoutStopSec=2m
            UMask=0077
            NoNewPrivileges=yes
            LockPersonality=yes
            RestrictRealtime=yes
            RestrictSUIDSGID=yes
            RestrictNamespaces=yes
            RestrictAddressFamilies=AF_INET AF_INET6 AF_UNIX
            SystemCallArchitectures=native
            SystemCallFilter=@system-service
            SystemCallErrorNumber=EPERM

            """).ToString();
    }

    // systemd.service(5), command lines: words in double quotes, with C's escapes; % and $ stand for something else.
    private static string Quote(string word)
    {
        var escaped = Escape(word).Replace("$", "$$", StringComparison.Ordinal);
        return escaped.Length > 0 && escaped.All(
            c => char.IsAsciiLetterOrDigit(c) || "/._-=+:,@%$".Contains(c, StringComparison.Ordinal)) ? escaped
            : $"\"{escaped.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal)}\"";
    }

    private static string Escape(string text) => OneLine(text).Replace("%", "%%", StringComparison.Ordinal);

    private static string OneLine(string text) => text.ReplaceLineEndings(" ");
}
