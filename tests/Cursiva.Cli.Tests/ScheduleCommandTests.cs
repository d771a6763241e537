using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>Units as the command writes them, and their commands as systemd would start them.</summary>
public sealed class ScheduleCommandTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public async Task Units_are_shown_installed_listed_and_removed()
    {
        Write("schedule: { at: \"06:30\", on: weekdays }");
        var shown = (await DoAsync("schedule", "depots.cursiva.yaml", "--at", "05:15", "--on", "mon,tue", "--zone", "Europe/Oslo")).ShouldEndWith(0);
        shown.Out.ShouldContain("OnCalendar=Mon,Tue *-*-* 05:15:00 Europe/Oslo\n");
        shown.Error.ShouldContain("Nothing was written.");
        (await DoAsync("schedule", "--list", "--into", "units")).ShouldEndWith(0).Out.ShouldContain("cursiva schedule has not made any unit");
        var installed = (await DoAsync("schedule", "depots.cursiva.yaml", "--install", "--into", "units")).ShouldEndWith(0);
        installed.Out.ShouldContain("sudo systemctl daemon-reload && sudo systemctl enable --now cursiva-depots.timer");
        installed.Error.ShouldContain("the credential /etc/cursiva/credentials/app-secret does not exist yet");
        (await DoAsync("schedule", "--list", "--into", "units")).ShouldEndWith(0).Out.ShouldContain("Mon,Tue,Wed,Thu,Fri *-*-* 06:30:00 UTC");
        (await DoAsync("schedule", "depots.cursiva.yaml", "--crontab")).ShouldEndWith(0).Out.ShouldContain("30 6 * * 1-5  ");
        (await DoAsync("schedule", "depots", "--remove", "--into", "units")).ShouldEndWith(0).Out.ShouldContain("removed units/cursiva-depots.service");
        Directory.GetFiles(_folder["units"]).ShouldBeEmpty();
        (await DoAsync("schedule", "depots", "--remove", "--into", "units")).ShouldEndWith(2).Error.ShouldContain("there is no unit for job 'depots'");

        Write("");
        (await DoAsync("schedule", "depots.cursiva.yaml")).ShouldEndWith(2).Error.ShouldContain("neither the command nor the job says when to run");
        (await DoAsync("schedule", "depots.cursiva.yaml", "--at", "6.30")).ShouldEndWith(2).Error.ShouldContain("--at '6.30' is not a time of day");
        (await DoAsync("schedule", "depots.cursiva.yaml", "--cron", "daily")).ShouldEndWith(2).Error.ShouldContain("--cron 'daily'");
        (await DoAsync("schedule", "depots.cursiva.yaml", "--on", "daily")).ShouldEndWith(2).Error.ShouldContain("--on needs --at");
    }

    // systemd is not running here: the command of the unit gets the environment that systemd would give it, and nothing else.
    [Fact]
    public async Task The_command_of_a_unit_runs_as_systemd_starts_it()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        Write("schedule: { at: \"06:30\" }", cloud.Address);
        (await DoAsync("schedule", "depots.cursiva.yaml", "--install", "--into", "units", "--credentials", _folder["credentials"])).ShouldEndWith(0);
        var unit = File.ReadAllLines(_folder["units/cursiva-depots.service"]);
        Directory.CreateDirectory(_folder["loaded"]);
        foreach (var line in unit.Where(line => line.StartsWith("LoadCredential=", StringComparison.Ordinal)))
            File.WriteAllText(_folder["loaded/" + line.Split('=', ':')[1]], Job.Secret + "\n");
        Directory.CreateDirectory(_folder["lib"], UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        var command = unit.Single(line => line.StartsWith("ExecStart=", StringComparison.Ordinal))["ExecStart=".Length..].Split(' ');
        var ended = await StartAsync(command, ("CREDENTIALS_DIRECTORY", _folder["loaded"]), ("STATE_DIRECTORY", _folder["lib"]), ("PATH", "/usr/bin:/bin"), ("LANG", "C.UTF-8"));
        ended.ShouldEndWith(0).Out.ShouldContain("Run 1 done");
        File.Exists(_folder["lib/state.db"]).ShouldBeTrue();
        File.ReadAllLines(_folder["reports/depots.csv"]).Length.ShouldBe(13);

        // Without its credential it says so, with a code at which the unit does not start it again.
        File.Delete(_folder["loaded/app-secret"]);
        var refused = await StartAsync(command, ("CREDENTIALS_DIRECTORY", _folder["loaded"]), ("STATE_DIRECTORY", _folder["lib"]), ("PATH", "/usr/bin:/bin"));
        unit.Single(line => line.StartsWith("RestartPreventExitStatus=", StringComparison.Ordinal)).Split('=', ' ').ShouldContain($"{refused.Code}");
        refused.Error.ShouldContain("app-secret");
    }

    private static async Task<Ended> StartAsync(string[] command, params (string Name, string Value)[] environment)
    {
        var start = new ProcessStartInfo(command[0], command[1..]) { WorkingDirectory = "/", RedirectStandardInput = true, RedirectStandardOutput = true, RedirectStandardError = true };
        start.Environment.Clear();
        foreach (var (name, value) in environment)
            start.Environment[name] = value;
        using var process = Process.Start(start)!;
        process.StandardInput.Close();
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync();
        return new Ended(process.ExitCode, await output, await error);
    }

    private void Write(string top, string address = "http://127.0.0.1:1") => File.WriteAllText(_folder["depots.cursiva.yaml"], $$"""
        cursiva: 1
        {{top}}
        identities:
          app: { grant: client_credentials, token-endpoint: "{{address}}/oauth2/token", client-id: brackwater-demo, secret: "systemd:app-secret" }
        apis: { exchange: { base: "{{address}}/v2", identity: app } }
        pulls:
          depots: { get: /depots, rows: /items, paging: { next-link: /links/next } }
        reports: { depots: { sql: select id from depots, write: depots.csv } }
        """);

    private Task<Ended> DoAsync(params string[] arguments) => App.RunAsync(App.Cursiva, [.. arguments, .. arguments.Contains("--list") || arguments.Contains("--remove") || arguments.Contains("--crontab") ? Array.Empty<string>() : ["--run-as", "www-data"]], _folder.Path, [("CURSIVA_STATE", _folder["state"])]);
}
