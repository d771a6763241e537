using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva state init</c>: makes the schema of a state that several machines share.</summary>
internal sealed class StateInitCommand(CommonOptions common)
{
    private readonly Option<bool> _print = new("--print")
    {
        Description = "print the SQL for an administrator, without contacting a database",
    };
    private readonly Option<int> _from = new("--from")
    {
        Description = "with --print: the database's current version; 0 for none",
        DefaultValueFactory = _ => 0,
    };

    private readonly Option<string> _role = new("--role")
    {
        Description = "the role that jobs use; users that run jobs become its members",
        DefaultValueFactory = _ => PostgresSchema.UsualRole,
    };

    public Command Build()
    {
        var command = new Command("init", "Create the schema for a state shared by several machines, in a PostgreSQL database.")
        {
            common.State,
            _role,
            _print,
            _from,
            common.EnvFile,
        };
        command.Validators.Add(result =>
        {
            if (result.GetValue(_from) is var from && (from < 0 || from > PostgresSchema.Version))
                result.AddError($"--from must be 0 to {PostgresSchema.Version}, not {from}");
        });
        command.Executes(common, WorkAsync);
        return command;
    }

    private async Task<Outcome> WorkAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var role = parsed.GetValue(_role)!;
        if (parsed.GetValue(_print))
        {
            place.Terminal.Out.WriteLinesAsIs(PostgresSchema.Sql(parsed.GetValue(_from), role).TrimEnd());
            return Outcome.Done;
        }

        var folder = place.StateFolder;
        if (folder.Shared is not { } shared)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, "the state is in a folder of this machine, which needs no preparation")
            {
                NextStep = "name the shared database: --state postgresql://USER@HOST/DATABASE",
            });
        }

        var before = await StateEngines.Shared(
            folder, shared, place.Disk, place.Environment, place.Redactor, CommandContext.Clock, _ => { }).InitAsync(role, cancel);
        place.Terminal.Out.WriteLineAsIs(before == PostgresSchema.Version
            ? $"The schema 'cursiva' at {shared.Words} already has version {before}; its grants were repeated."
            : $"The schema 'cursiva' at {shared.Words} is {(before == 0 ? "made" : $"brought from version {before}")}{(before == 0 ? $", version {PostgresSchema.Version}" : $" to version {PostgresSchema.Version}")}.");
        place.Terminal.Out.WriteLineAsIs($"Each user that runs jobs must be a member: grant {role} to USER;");
        return Outcome.Done;
    }
}
