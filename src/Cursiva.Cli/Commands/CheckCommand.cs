using System.CommandLine;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Checks;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva check JOB</c>, with <c>--live</c> signing in and asking each API once.</summary>
internal sealed class CheckCommand
{
    private readonly CommonOptions _common = new();
    private readonly Option<bool> _live = new("--live") { Description = "sign in as every identity, and call each API once" };
    private readonly Option<string?> _wait = new("--wait")
    {
        Description = "with --live: keep trying for this long while a new consent or permission takes effect, for example 15m",
    };

    private readonly Option<bool> _try = new("--try")
    {
        Description =
            "with --live: if an identity is refused, try the other ways that the standards allow, and report the smallest change that works",
    };

    public CheckCommand() => _wait.Validators.Add(result =>
    {
        if (result.Tokens is [var token, ..] && Durations.TryParse(token.Value) is null)
            result.AddError($"--wait '{token.Value}' is not a duration; {Durations.Right}");
    });

    public Command Build()
    {
        var command = new Command("check", "Check a job: list every mistake in it, or show what it would do.")
        {
            _common.Job, _live, _wait, _try, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Format, _common.Log,
        };
        command.Validators.Add(result =>
        {
            foreach (var option in new Option[] { _wait, _try }.Where(
                option => result.GetResult(option) is { Implicit: false } && !result.GetValue(_live)))
                result.AddError($"{option.Name} contacts servers, so it needs --live");
        });
        command.Executes(_common, async (parsed, place, cancel) =>
        {
            var (job, mistakes) = Read(parsed, place);
            if (mistakes.Count > 0)
                return place.Json
                    ? MistakesView.ShowJson(place.Terminal.Out, mistakes)
                    : MistakesView.Show(place.Terminal.Out, place.Terminal.OutIsTerminal, mistakes);
            if (parsed.GetValue(_live))
                return await LiveAsync(
                    place,
                    job!,
                    parsed.GetValue(_wait) is { } text ? Durations.TryParse(text)!.Value : TimeSpan.Zero,
                    parsed.GetValue(_try),
                    cancel);

            var account = JobAccount.Of(job!, place.Environment);
            if (await place.ColumnsSeenAsync(job!, cancel) is { Count: > 0 } seen)
                account = account with { Warnings = [.. account.Warnings, .. JobCheck.Unseen(job!, seen)] };
            account = account with { Warnings = [.. account.Warnings.Select(place.Advice.Of)] };
            if (place.Json)
                place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize(account, CliJson.Default.JobAccount));
            else
                AccountView.Show(place.Terminal.Out, account);
            return Outcome.Done;
        });
        return command;
    }

    /// <summary>Signs in and asks each API once, and tells what came of it.</summary>
    public static async Task<Outcome> LiveAsync(CommandContext place, Job job, TimeSpan wait, bool tries, CancellationToken cancel)
    {
        var services = await place.OpenAsync(job, cancel);
        var report = await new LiveCheck(job, services).CheckAsync(wait, (so, left) => Again(place.Terminal.Error, so, left), cancel);
        var found = tries ? await new AccessSearch(job, services, new SearchView(place.Terminal.Error)).SearchAsync(report, cancel) : null;
        if (found is not null)
            place.Terminal.Error.WriteLine();
        LiveCheckView.Show(
            place.Terminal.Out,
            place.Json,
            report with
            {
                Lines = [.. report.Lines.Select(line => line with { NextStep = line.NextStep is { } next ? place.Advice.Of(next) : null })],
            },
            found);
        return report.Outcome;
    }

    private static void Again(IAnsiConsole console, LiveReport report, TimeSpan left)
    {
        var bad = report.Lines.First(line => line.Verdict == LiveVerdict.Failed);
        console.Say($"not yet: {bad.Kind} {bad.Name}, {bad.Step}; trying for another {Durations.ForPeople(left)}");
    }

    private (Job? Job, IReadOnlyList<Mistake> Mistakes) Read(ParseResult parsed, CommandContext place)
    {
        try
        {
            var job = place.ReadJob(parsed.GetValue(_common.Job)!);
            return (job, JobCheck.Check(job));
        }
        catch (JobMistakesException error)
        {
            return (null, [.. error.Mistakes, .. error.Job is { } job ? JobCheck.Check(job) : []]);
        }
    }
}
