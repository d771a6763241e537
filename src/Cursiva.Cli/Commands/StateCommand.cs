using System.CommandLine;
using System.Reflection;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva state show|verify|backup|restore|fold|init</c>.</summary>
internal sealed class StateCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string> _into = new("FOLDER") { Description = "the folder for the backup, which must not exist yet" };
    private readonly Argument<string> _from = new("FOLDER") { Description = "the folder of a backup" };
    private readonly Argument<string[]> _jobs = new("JOB") { Description = "the job files", Arity = ArgumentArity.OneOrMore };

    public Command Build()
    {
        var show = new Command("show", "Show the disk usage of the state, job by job.") { _common.State, _common.Format, _common.EnvFile };
        show.Executes(_common, ShowAsync);
        var verify = new Command("verify", "Compare every landed page with its checksum.")
        {
            _common.State,
            _common.Format,
            _common.EnvFile,
        };
        verify.Executes(_common, (_, place, cancel) => VerifyAsync(place, cancel));
        var backup = new Command("backup", "Copy the state into a folder, without the store's key; works while jobs run.")
        {
            _into,
            _common.State,
            _common.EnvFile,
        };
        backup.Executes(_common, (parsed, place, cancel) => Task.FromResult(Backup(parsed.GetValue(_into)!, place, cancel)));
        var restore = new Command("restore", "Restore a backup, on this machine or another one.")
        {
            _from,
            _common.State,
            _common.EnvFile,
        };
        restore.Executes(_common, (parsed, place, cancel) => RestoreAsync(parsed.GetValue(_from)!, place, cancel));
        var fold = new Command(
            "fold", "Fold the landings of older runs into one, remove what is no longer needed, and shrink the database.")
        {
            _jobs,
            _common.Input,
            _common.InputsFrom,
            _common.State,
            _common.EnvFile,
        };
        fold.Executes(_common, FoldAsync);
        return new Command("state", "Maintain the state: sizes, checksums, backups; a database for several machines.")
        {
            show,
            verify,
            backup,
            restore,
            fold,
            new StateInitCommand(_common).Build(),
        };
    }

    private static async Task<Outcome> ShowAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var folder = place.StateFolder;
        var state = await place.OpenStateToReadAsync(cancel);
        var key = new StoreKey(folder, place.Disk, place.Environment);
        var kept = await new SecretStore(state, new Vault(key), CommandContext.Clock).ListAsync(cancel);
        var sizes = await new StateDesk(folder, place.Disk, CommandContext.Clock).SizesAsync(state, key.Where, kept.Count, cancel);
        if (place.Json)
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize(sizes, CliJson.Default.StateSizes));
        else
            StateView.Show(place.Terminal.Out, sizes);
        return Outcome.Done;
    }

    private static async Task<Outcome> VerifyAsync(CommandContext place, CancellationToken cancel)
    {
        var folder = place.StateFolder;
        if (!folder.IsThere)
            throw NoState(folder);
        var state = await place.OpenStateToReadAsync(cancel);
        var verified = await new StateDesk(folder, place.Disk, state.Clock).VerifyAsync(state, _ => { }, cancel);
        if (place.Json)
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize(verified, CliJson.Default.VerifiedState));
        else
            StateView.Show(place.Terminal.Out, verified);
        if (verified.Damage.Count == 0)
            return Outcome.Done;
        RefusalView.Show(place.Terminal, new Refusal(
            Outcome.InternalError, $"{verified.Damage.Count:N0} {(verified.Damage.Count == 1 ? "thing is" : "things are")} damaged")
        {
            Cause = "the disk lost data, or somebody changed a file",
            NextStep =
                "move the state folder away and restore a backup: cursiva state restore FOLDER; or start over: cursiva run JOB --new --full",
        }, place.Advice);
        return Outcome.InternalError;
    }

    private static Outcome Backup(string into, CommandContext place, CancellationToken cancel)
    {
        RequireOneMachine(place.StateFolder);
        var version = typeof(StateCommand).Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()?.InformationalVersion.Split(
            '+')[0] ?? "0";
        var key = new StoreKey(place.StateFolder, place.Disk, place.Environment);
        var record = new StateBackup(place.Disk, CommandContext.Clock).Make(
            place.StateFolder, Path.GetFullPath(into), version, key.Where, cancel);
        place.Terminal.Out.WriteLineAsIs(
            $"Copied {record.Files.Count:N0} files, {SummaryView.Size(record.Files.Sum(file => file.Bytes))}, into {into}.");
        place.Terminal.Out.WriteLineAsIs(
            $"The store's key is not included: keep a copy of {key.Where} somewhere else. Whoever has both has the secrets.");
        return Outcome.Done;
    }

    private static async Task<Outcome> RestoreAsync(string from, CommandContext place, CancellationToken cancel)
    {
        var folder = place.StateFolder;
        RequireOneMachine(folder);
        var record = new StateBackup(place.Disk, CommandContext.Clock).Restore(Path.GetFullPath(from), folder, cancel);
        place.Terminal.Out.WriteLineAsIs(
            $"The state of {record.Machine} as of {record.At:yyyy-MM-dd HH:mm:ss}Z, is in {folder.Root}.");
        var state = await place.OpenStateAsync(cancel);
        var key = new StoreKey(folder, place.Disk, place.Environment);
        var kept = await new SecretStore(state, new Vault(key), CommandContext.Clock).ListAsync(cancel);
        if (File.Exists(StoreKey.WantedFile(folder)) && key.Where == Path.Combine(folder.Root, "store.key"))
        {
            var whose = kept.Count == 0
                ? "The key of its store"
                : $"It has {kept.Count:N0} kept {(kept.Count == 1 ? "secret" : "secrets")}, and their key";
            place.Terminal.Out.WriteLineAsIs(
                $"{whose} was {record.Key}: put it at {key.Where} (mode 600), or name it with {StoreKey.Variable} or {StoreKey.FileVariable}.");
        }

        place.Terminal.Out.WriteLineAsIs(
            "If the machine that it came from still runs the jobs, stop them there: a refresh token is spent by one machine at a time.");
        return Outcome.Done;
    }

    private async Task<Outcome> FoldAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        foreach (var path in parsed.GetValue(_jobs)!)
        {
            var job = place.ReadJob(path);
            try
            {
                var (folded, removed) = await new JobFold(job, place.RunOptions(StartChoice.Either)).FoldAsync(cancel);
                place.Terminal.Out.WriteLineAsIs(
                    $"{job.Name}: {(folded.Count > 0 ? $"folded into run {string.Join(", ", folded)}" : "nothing to fold")}, {(removed.Count > 0 ? $"removed the rows of {removed.Count:N0} runs" : "nothing to remove")}");
            }
            catch (LandingDamagedException error)
            {
                throw new RefusedException(
                    new Refusal(Outcome.InternalError, $"job '{job.Name}' cannot be folded: {error.Message}")
                    {
                        NextStep = "find the damage: cursiva state verify",
                    });
            }
        }

        if (place.StateFolder.IsOfOneMachine)
            SqliteCare.Shrink(place.StateFolder.Database);
        return Outcome.Done;
    }

    private static void RequireOneMachine(StateFolder folder)
    {
        if (folder.Shared is not { } shared)
            return;
        throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"the state is in the database at {shared.Words}, not in a folder")
        {
            NextStep = $"back it up with the database: pg_dump --schema cursiva {shared.Database}",
        });
    }

    private static RefusedException NoState(StateFolder folder) =>
        new(
            new Refusal(Outcome.WrongCommandLine, $"there is no state in {folder.Root}")
            {
                NextStep = "name the state folder with --state",
            });
}
