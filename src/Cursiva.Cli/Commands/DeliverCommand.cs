using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva deliver JOB</c>.</summary>
internal sealed class DeliverCommand
{
    private readonly CommonOptions _common = new();

    public Command Build()
    {
        var command = new Command("deliver", "Send the pending deliveries of earlier runs.")
        {
            _common.Job, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Log, _common.Format,
        };
        command.Executes(_common, async (parsed, place, cancel) =>
        {
            var job = place.ReadJob(parsed.GetValue(_common.Job)!);
            using var watch = RunView.For(place.Terminal, CommandContext.Clock, place.View, place.Advice, job.Name);
            var (entries, objection) = await new JobDeliveries(job, place.RunOptions(StartChoice.Either), watch).DeliverAsync(cancel);
            watch.Dispose();
            if (objection is null || entries.Count > 0)
                place.LedgerView(job).Show(entries, "There is nothing to deliver.");
            if (objection is null)
                return Outcome.Done;
            RefusalView.Show(place.Terminal, objection, place.Advice);
            return objection.Outcome;
        });
        return command;
    }
}
