using System.CommandLine;
using System.Text;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva overview</c>.</summary>
internal sealed class OverviewCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string[]> _places = new("FOLDER")
    {
        Description = "job files or folders of them, to include jobs that have not run yet",
        Arity = ArgumentArity.ZeroOrMore,
    };
    private readonly Option<bool> _failing = new("--failing")
    {
        Description = "show only jobs that need attention, and exit with code 8 if there are any",
    };
    private readonly Option<string?> _html = new("--html")
    {
        Description = "write a page with everything, including charts of 90 days, to this file",
        HelpName = "FILE",
    };
    private readonly Option<string?> _metrics = new("--metrics")
    {
        Description = "write the state of the jobs to this file as OpenMetrics text, for a collector that reads files",
        HelpName = "FILE",
    };
    private readonly Option<string?> _late = new("--late")
    {
        Description =
            "send what is new or over with this job's deliveries that have when: late; each condition once, and once more when it is over",
        HelpName = "JOB",
    };

    public Command Build()
    {
        var command = new Command("overview", "Show the state of every job in the state folder.")
        {
            _places,
            _failing,
            _html,
            _metrics,
            _late,
            _common.State,
            _common.EnvFile,
            _common.Log,
            _common.Format,
        };
        command.Validators.Add(result =>
        {
            foreach (var place in (result.GetValue(_places) ?? []).Where(place => !Directory.Exists(place) && !File.Exists(place)))
                result.AddError($"'{place}' is neither a folder nor a job file");
        });
        command.Executes(_common, WorkAsync);
        return command;
    }

    private async Task<Outcome> WorkAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var folder = place.StateFolder;
        var state = await place.OpenStateToReadAsync(cancel);
        var look = await new OverviewDesk(state, folder, place.Environment, state.Clock).LookAsync(
            parsed.GetValue(_places)!, cancel);
        look = Advised(look, parsed.GetValue(_late) is null ? parsed.GetValue(_common.State) : folder.Name);
        if (parsed.GetValue(_html) is { } page)
            Write(place, page, OverviewPage.Write(look));
        if (parsed.GetValue(_metrics) is { } metrics)
            Write(place, metrics, Gauge.Text(OverviewNumbers.Of(look)));
        if (parsed.GetValue(_late) is { } teller)
            return await TellAsync(teller, look, state, place, cancel);
        var shown = parsed.GetValue(_failing) ? look with { Jobs = [.. look.Jobs.Where(job => job.Conditions.Count > 0)] } : look;
        OverviewView.Show(place.Terminal.Out, place.Json, shown, parsed.GetValue(_failing));
        return parsed.GetValue(_failing) && look.IsFailing ? Outcome.ReportFailed : Outcome.Done;
    }

    // What is told elsewhere names the state folder, since another one is usual there.
    private static JobsLook Advised(JobsLook look, string? state) => look with
    {
        Jobs = [.. look.Jobs.Select(
            job => job with
            {
                Conditions = [.. job.Conditions.Select(one => one with { Words = new Advice(job.Path, state).Of(one.Words) })],
            })],
    };

    private static async Task<Outcome> TellAsync(
        string teller, JobsLook look, IState state, CommandContext place, CancellationToken cancel)
    {
        var job = place.ReadJob(teller);
        using var watch = RunView.For(place.Terminal, CommandContext.Clock, place.View, place.Advice, job.Name);
        var deliveries = new JobDeliveries(job, place.RunOptions(StartChoice.Either), watch);
        deliveries.RequireTeller();
        var desk = new AlarmDesk(state, job.Name);
        Refusal? objection = null;
        if (await desk.LookAsync(look, cancel) is { } alarm)
        {
            alarm = alarm with { Words = new Advice(null, place.StateFolder.Name).Of(alarm.Words) };
            objection = await deliveries.TellAsync(alarm.Number, alarm.Words, cancel);
            await desk.ToldAsync(alarm, CancellationToken.None);
            watch.Dispose();
            place.Terminal.Out.WriteLinesAsIs(alarm.Words);
        }
        else
        {
            if ((await new LedgerBook(state, job.Name, state.Clock).EntriesAsync(cancel)).Any(entry => entry.IsPending))
                objection = (await deliveries.DeliverAsync(cancel)).Objection;
            watch.Dispose();
            place.Terminal.Out.WriteLinesAsIs("Nothing new.");
        }

        if (objection is null)
            return Outcome.Done;
        RefusalView.Show(place.Terminal, objection, new Advice(teller, place.StateFolder.Name));
        return objection.Outcome;
    }

    private static void Write(CommandContext place, string path, string text)
    {
        try
        {
            WholeFile.Write(place.Disk, path, Encoding.UTF8.GetBytes(text), shared: true);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(
                new Refusal(Outcome.ReportFailed, $"{path} could not be written: {error.Message}")
                {
                    NextStep = "name a file in an existing folder that you can write to",
                });
        }
    }
}
