using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva runs watch|stop</c>: about a run that another process does.</summary>
internal sealed class RunningCommands(CommonOptions common)
{
    private static readonly TimeSpan s_longest = TimeSpan.FromMinutes(2);
    private static readonly TimeSpan s_look = TimeSpan.FromMilliseconds(200);

    public Command Watch()
    {
        var command = new Command("watch", "Show a run that another process does, until it ends.")
        {
            common.Job,
            common.State,
            common.Format,
            common.EnvFile,
        };
        command.Executes(common, async (parsed, place, cancel) =>
        {
            var (name, file) = Of(parsed, place);
            var last = await new WatchView(place.Terminal, place.Json, CommandContext.Clock).ShowAsync(() => Alive(file), cancel);
            if (!place.Json)
                place.Terminal.Out.WriteLineAsIs(last is null ? $"No run of {name} is going on." : $"Run {last.Run} has ended; cursiva runs show {parsed.GetValue(common.Job)} {last.Run} tells how.");
            return Outcome.Done;
        });
        return command;
    }

    public Command Stop()
    {
        var command = new Command("stop", "Ask a run that another process does to stop; the next start resumes it.")
        {
            common.Job,
            common.State,
            common.Format,
            common.EnvFile,
        };
        command.Executes(common, async (parsed, place, cancel) =>
        {
            var (name, file) = Of(parsed, place);
            var pulse = Alive(file) ?? throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"no run of {name} is going on") { NextStep = "see what ran: cursiva runs list --all-jobs" });
            file.AskToStop(place.Disk, pulse.Run);
            var asked = CommandContext.Clock.GetTimestamp();
            while (Alive(file) is { } still && still.Run == pulse.Run)
            {
                if (CommandContext.Clock.GetElapsedTime(asked) > s_longest)
                {
                    throw new RefusedException(new Refusal(Outcome.InternalError, $"run {pulse.Run} has been asked to stop, and process {pulse.Process} on {pulse.Machine} is still at it")
                    {
                        Cause = "a write in flight is finished first, or the process hangs",
                        NextStep = $"watch it: cursiva runs watch JOB; or end the process: kill {pulse.Process}",
                    });
                }

                await Task.Delay(s_look, CommandContext.Clock, cancel);
            }

            place.Terminal.Out.WriteLineAsIs($"Run {pulse.Run} of {name} has stopped; the next start resumes it.");
            return Outcome.Done;
        });
        return command;
    }

    private (string Name, PulseFile File) Of(ParseResult parsed, CommandContext place)
    {
        var named = parsed.GetValue(common.Job)!;
        var name = File.Exists(named) && JobReader.PeekName(named) is { } own ? own : named;
        return (name, new PulseFile(new JobFolder(place.StateFolder, name).Path));
    }

    private static Pulse? Alive(PulseFile file) =>
        file.Read() is { } pulse && pulse.IsAlive(CommandContext.Clock.GetUtcNow()) ? pulse : null;
}
