using Cursiva.Cli.Rendering;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary>
/// The demo's second act: five jobs and one look at them. Their runs are real, on a clock that is days behind for the earlier ones.
/// </summary>
internal sealed class DemoOperations(CommandContext place, string folder, string address)
{
    private const int Days = 6;
    private const int Missed = 3;
    private const int DaysOfSecret = 12;
    private const int BudgetBeforeStop = 1;

    public async Task ShowAsync(string secret, CancellationToken cancel)
    {
        var to = place.Terminal.Out;
        to.Say($"\n[bold]A week of nights[/] for four more jobs: one is stopped and resumed, one has not run for {Missed} days, one has a secret about to expire.\n");
        var stateFolder = new StateFolder(Path.Combine(folder, "state"));
        await using (var state = SqliteState.Open(stateFolder.Database, CommandContext.Clock))
        {
            var services = SignInServices.Of(
                state,
                stateFolder,
                place.Disk,
                place.Redactor,
                place.Environment,
                folder,
                CommandContext.Clock,
                () => 0,
                new QuietWatch(place.Terminal.Error, place.Advice),
                new QuietWatch(place.Terminal.Error, place.Advice));
            await services.Store.KeepAsync(
                "carriers-secret", secret, CommandContext.Clock.GetUtcNow().AddDays(DaysOfSecret).AddHours(1), cancel);
            services.Senders.Dispose();
        }

        for (var ago = Days; ago >= 0; ago--)
        {
            foreach (var name in new[] { "tenants", "depots", "bookings", "carriers" })
            {
                if (name == "depots" && ago < Missed)
                    continue;
                if (name == "bookings" && ago == 0)
                    await RunAsync(name, stateFolder, ago, BudgetBeforeStop, cancel);
                await RunAsync(name, stateFolder, ago, null, cancel);
            }
        }

        await using var after = SqliteState.Open(stateFolder.Database, CommandContext.Clock);
        var look = await new OverviewDesk(after, stateFolder, Known, CommandContext.Clock).LookAsync([folder], cancel);
        OverviewView.Show(to, json: false, look, failingOnly: false);
        var page = Path.Combine(folder, "overview.html");
        await File.WriteAllTextAsync(page, OverviewPage.Write(look), cancel);
        to.Say($"\nThe same as a page: {Path.GetRelativePath(Environment.CurrentDirectory, page)}. Later: cursiva overview --state {DemoCommand.Pasted(stateFolder.Root)}");
    }

    // The jobs are read by the overview as their runs read them.
    private string? Known(string name) => name == GivenInputs.VariableFor("cloud") ? address : place.Environment(name);

    private async Task RunAsync(string name, StateFolder state, int ago, long? budget, CancellationToken cancel)
    {
        var clock = new SteadyClock(CommandContext.Clock, CommandContext.Clock.GetUtcNow().AddDays(-ago));
        Job Read(DateTimeOffset start) => JobReader.Read(
            Path.Combine(folder, $"{name}.cursiva.yaml"),
            new GivenInputs([], [KeyValuePair.Create("cloud", address)], place.Environment),
            start);
        using var watch = new SilentRunView();
        var options = place.RunOptions(StartChoice.Either) with
        {
            State = state,
            Engine = new SqliteEngine(state, place.Disk, clock),
            Clock = clock,
            MaxRequests = budget,
        };
        var summary = await new JobRun(options, watch).ExecuteAsync(Read(clock.GetUtcNow()), Read, cancel);
        if (summary.Outcome is not (Outcome.Done or Outcome.StoppedResumable))
            RefusalView.Show(place.Terminal, summary.Refusal!, place.Advice);
    }
}
