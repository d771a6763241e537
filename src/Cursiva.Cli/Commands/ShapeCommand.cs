using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Drafts;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva shape</c>: what an answer, or the rows of a pull, look like.</summary>
internal sealed class ShapeCommand
{
    private const int MostLookedBack = 100;

    private readonly CommonOptions _common = new();
    private readonly Argument<string> _source = new("ANSWER")
    {
        Description = "a saved answer, - for standard input; or a job file, followed by the name of a pull",
    };
    private readonly Argument<string?> _pull = new("PULL")
    {
        Description = "the pull of the job, to show the rows of its newest run",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Option<bool> _schema = new("--schema")
    {
        Description = "print a matching JSON Schema (2020-12) instead of the tree",
    };

    public Command Build()
    {
        var command = new Command(
            "shape", "Show the shape of an answer or of a pull's rows: members, types, how often they occur; or a JSON Schema.")
        {
            _source, _pull, _schema, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Log, _common.Format,
        };
        command.Executes(_common, ExecuteAsync);
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var source = parsed.GetValue(_source)!;
        var shape = parsed.GetValue(_pull) is { } pull
            ? await WithRowsAsync(
                source,
                JobSource.Of(source, parsed, _common, place.Environment).Read(CommandContext.Clock.GetUtcNow()),
                pull,
                place,
                rows => Shape.Of(rows, cancel),
                cancel)
            : source.EndsWith(JobReader.Suffix, StringComparison.Ordinal)
                ? throw new RefusedException(
                    new Refusal(Outcome.WrongCommandLine, "a job has the rows of several pulls")
                    {
                        NextStep = $"name one: cursiva shape {ShellWord.Of(source)} PULL",
                    })
                : Shape.Of(await ReadAsync(source, cancel), source == InputFile.StandardInput ? "standard input" : source);
        if (parsed.GetValue(_schema))
            place.Terminal.Out.WriteLinesAsIs(
                place.Redactor.Clean(shape.Schema(parsed.GetValue(_pull) ?? Path.GetFileNameWithoutExtension(source))));
        else
            ShapeView.Show(place.Terminal.Out, place.Json, shape);
        return Outcome.Done;
    }

    /// <summary>The landed rows of a pull, in the newest run whose rows are all there.</summary>
    /// <param name="path">The job file, for messages.</param>
    /// <param name="look">Takes them.</param>
    internal static async Task<T> WithRowsAsync<T>(
        string path, Job job, string pull, CommandContext place, Func<LandedRows, T> look, CancellationToken cancel)
    {
        if (!job.Pulls.Any(other => other.Name == pull))
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"the job has no pull '{pull}'")
                {
                    NextStep = $"name one of {string.Join(", ", job.Pulls.Select(other => other.Name))}",
                });
        var folder = new JobFolder(place.StateFolder, job);
        RunRecord? run = null;
        if (place.StateFolder.IsThere)
        {
            var state = await place.OpenStateAsync(cancel);
            var shared = new SharedLandings(state, folder, place.Disk);
            foreach (var one in (await new RunStore(state, folder).NewestAsync(MostLookedBack, cancel)).Reverse().Where(
                one => one.LandedAt is not null))
            {
                await shared.BringAsync([one.Number], cancel);
                if (!Directory.Exists(folder.LandingOf(one.Number)))
                    continue;
                run = one;
                break;
            }
        }

        if (run is null)
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "no run has landed all its rows") { NextStep = $"cursiva run {ShellWord.Of(path)}" });
        await using var landing = new RunLanding(place.Disk, folder.LandingOf(run.Number), CommandContext.Clock);
        return look(landing.Read(pull));
    }

    private static Task<byte[]> ReadAsync(string source, CancellationToken cancel) => InputFile.ReadAsync(
        source,
        why => new Refusal(Outcome.WrongCommandLine, $"'{source}' cannot be read: {why}")
        {
            NextStep = "name a saved answer, or a job and one of its pulls",
        },
        cancel);
}
