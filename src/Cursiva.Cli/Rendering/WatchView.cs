using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Runs;
using Spectre.Console;
using Spectre.Console.Rendering;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows a run that another process does, from what that process tells once a second.</summary>
internal sealed class WatchView(Terminal terminal, bool json, TimeProvider clock)
{
    private static readonly TimeSpan s_look = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan s_betweenLines = TimeSpan.FromSeconds(5);

    private Pulse? _before;

    /// <summary>Shows until the run has ended.</summary>
    /// <param name="look">What was told last; null where no run is under way.</param>
    /// <returns>What was told last of the run; null where there was none.</returns>
    public async Task<Pulse?> ShowAsync(Func<Task<Pulse?>> look, CancellationToken cancel)
    {
        if (!terminal.OutIsTerminal || json)
            return await LinesAsync(look, cancel);
        Pulse? last = null;
        await terminal.Out.Live(Shown.Text("")).AutoClear(false).StartAsync(async live =>
        {
            while (await look() is { } pulse)
            {
                last = pulse;
                live.UpdateTarget(Draw(pulse));
                await Task.Delay(s_look, clock, cancel);
            }
        });
        return last;
    }

    private async Task<Pulse?> LinesAsync(Func<Task<Pulse?>> look, CancellationToken cancel)
    {
        Pulse? last = null;
        DateTimeOffset? shown = null;
        while (await look() is { } pulse)
        {
            // A run that has begun to do something is shown at once.
            var began = last is { Doing: "" } && pulse.Doing.Length > 0;
            last = pulse;
            if (shown is null || began || clock.GetUtcNow() - shown >= s_betweenLines)
            {
                shown = clock.GetUtcNow();
                terminal.Out.WriteLinesAsIs(json ? JsonSerializer.Serialize(pulse, WatchJson.Default.Pulse) : LineOf(pulse));
            }

            await Task.Delay(s_look, clock, cancel);
        }

        return last;
    }

    private Rows Draw(Pulse pulse)
    {
        var table = new Table { Border = TableBorder.Simple };
        table.AddColumn("pull");
        table.AddColumn("strands");
        foreach (var title in new[] { "pages", "rows", "of", "rows/s", "left" })
            table.AddColumn(new TableColumn(title).RightAligned());
        foreach (var pull in pulse.Pulls)
        {
            var rate = Rate(pulse, pull);
            var left = rate > 0 && pull.Total is { } all && all > pull.Rows
                ? Durations.ForPeople(TimeSpan.FromSeconds((all - pull.Rows) / rate))
                : "";
            table.AddRow(
                [.. new[] { pull.Pull, pull.Strands is { } ended
                    ? $"{ended:N0} ended{(pull.Skips > 0 ? $", {pull.Skips:N0} skipped" : "")}"
                    : "", $"{pull.Pages:N0}", $"{pull.Rows:N0}", pull.Total is { } total
                        ? $"{total:N0}"
                        : "", rate > 0 ? $"{rate:N0}" : "", left }.Select(Shown.Escape)]);
        }

        _before = pulse;
        IRenderable[] lines =
        [
            new Markup($"[bold]Run {pulse.Run}[/] of {Shown.Escape(pulse.Job)}, process {pulse.Process} on {Shown.Escape(pulse.Machine)}, since {pulse.StartedAt:yyyy-MM-dd HH:mm:ss}Z"),
            .. pulse.Pulls.Count > 0 ? [table] : Array.Empty<IRenderable>(),
            new Markup($"[grey]{Shown.Escape(pulse.Doing.Length > 0 ? pulse.Doing + ", " : "")}{Requests(pulse)}; Ctrl-C ends watching, not the run[/]"),
        ];
        return new Rows(lines);
    }

    private double Rate(Pulse pulse, PulledSoFar pull) =>
        _before is { } before && pulse.At > before.At && before.Pulls.FirstOrDefault(other => other.Pull == pull.Pull) is { } earlier
            ? (pull.Rows - earlier.Rows) / (pulse.At - before.At).TotalSeconds
            : 0;

    private static string LineOf(Pulse pulse)
    {
        var doing = pulse.Doing.Length == 0 ? "starting" : $"{pulse.Doing}: {string.Join("; ", pulse.Pulls.Select(Line))}";
        return $"{pulse.At:yyyy-MM-dd HH:mm:ss}Z run {pulse.Run} {doing}; {Requests(pulse)}";
    }

    private static string Line(PulledSoFar pull) =>
        $"{pull.Pull} {pull.Rows:N0}{(pull.Total is { } total ? $" of {total:N0}" : "")} rows, {pull.Pages:N0} pages";

    private static string Requests(Pulse pulse) =>
        $"{pulse.Requests:N0} requests, {pulse.Retries:N0} {(pulse.Retries == 1 ? "retry" : "retries")}, waited {Durations.ForPeople(TimeSpan.FromSeconds(pulse.WaitedS))}";
}
