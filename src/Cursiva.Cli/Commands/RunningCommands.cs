using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva runs watch|stop</c>: about a run that another process does.</summary>
internal sealed class RunningCommands(CommonOptions common)
{
    private static readonly TimeSpan s_longest = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan s_look = TimeSpan.FromMilliseconds(200);

    public Command Watch()
    {
        var command = new Command("watch", "Follow a run of another process until it ends.")
        {
            common.Job,
            common.State,
            common.Format,
            common.EnvFile,
        };
        command.Executes(common, async (parsed, place, cancel) =>
        {
            var (name, board, clock) = await OfAsync(parsed, place, cancel);
            var last = await new WatchView(place.Terminal, place.Json, clock).ShowAsync(() => board.AliveAsync(clock, cancel), cancel);
            if (!place.Json)
                place.Terminal.Out.WriteLineAsIs(
                    last is null
                        ? $"No run of {name} is under way."
                        : $"Run {last.Run} has ended; {place.Advice.Of("cursiva runs show JOB")} {last.Run} tells how.");
            return Outcome.Done;
        });
        return command;
    }

    public Command Stop()
    {
        var command = new Command("stop", "Ask a run of another process to stop; the next start resumes it.")
        {
            common.Job,
            common.State,
            common.Format,
            common.EnvFile,
        };
        command.Executes(common, async (parsed, place, cancel) =>
        {
            var (name, board, clock) = await OfAsync(parsed, place, cancel);
            var pulse = await board.AliveAsync(clock, cancel)
                ?? throw new RefusedException(
                    new Refusal(Outcome.WrongCommandLine, $"no run of {name} is under way")
                    {
                        NextStep = "see what ran: cursiva runs list --all-jobs",
                    });
            await board.AskToStopAsync(pulse.Run, cancel);
            var asked = clock.GetTimestamp();
            while (await board.AliveAsync(clock, cancel) is { } still && still.Run == pulse.Run)
            {
                if (clock.GetElapsedTime(asked) > s_longest)
                {
                    throw new RefusedException(new Refusal(
                        Outcome.InternalError,
                        $"run {pulse.Run} was asked to stop, but process {pulse.Process} on {pulse.Machine} is still running")
                    {
                        Cause = "it is finishing a write in flight, or the process hangs",
                        NextStep = $"watch it: cursiva runs watch JOB; or end the process: kill {pulse.Process}",
                    });
                }

                await Task.Delay(s_look, clock, cancel);
            }

            place.Terminal.Out.WriteLineAsIs($"Run {pulse.Run} of {name} has stopped; the next start resumes it.");
            return Outcome.Done;
        });
        return command;
    }

    private async Task<(string Name, PulseBoard Board, TimeProvider Clock)> OfAsync(
        ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var named = parsed.GetValue(common.Job)!;
        var name = File.Exists(named) && JobReader.PeekName(named) is { } own ? own : named;
        var state = await place.OpenStateToReadAsync(cancel);
        return (name, new PulseBoard(state.Notes, name), state.Clock);
    }
}
