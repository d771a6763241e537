using System.CommandLine;

namespace Cursiva.Cli.Commands;

/// <summary>Options that several commands have.</summary>
internal sealed class CommonOptions
{
    public Argument<string> Job { get; } = new("JOB") { Description = "the job file, NAME.cursiva.yaml" };

    public Option<string[]> InputsFrom { get; } = new("--inputs-from")
    {
        Description = "a YAML or JSON file with values of inputs; can be repeated",
        DefaultValueFactory = _ => [],
    };

    public Option<string[]> Input { get; } = new("--input")
    {
        Description = "NAME=VALUE, the value of an input; can be repeated",
        DefaultValueFactory = _ => [],
    };

    public Option<string?> EnvFile { get; } = new("--env-file")
    {
        Description = "a file of NAME=value lines, for variables that are not set in the environment",
    };

    public Option<string?> State { get; } = new("--state")
    {
        Description =
            "the state folder, or a database that several machines share: postgresql://USER@HOST/DATABASE [otherwise CURSIVA_STATE or ~/.local/state/cursiva]",
    };

    public Option<string[]> Log { get; } = new("--log")
    {
        Description =
            "plain, json, journal (with priority and fields; automatic under systemd) or debug; debug can be combined with another",
        DefaultValueFactory = _ => ["plain"],
        AllowMultipleArgumentsPerToken = false,
    };

    public Option<string> Format { get; } = new("--format") { Description = "text or json", DefaultValueFactory = _ => "text" };

    /// <summary>Gives the values that strands fill in, where a command is about one of them.</summary>
    public Option<string[]> Value { get; } = new("--value")
    {
        Description = "NAME=VALUE, a value that a strand would fill in, such as tenant.id=T0001; can be repeated",
        DefaultValueFactory = _ => [],
    };

    /// <summary>
    /// How events are told: as the command line says; where it says nothing and stderr goes into systemd's journal, to that.
    /// </summary>
    public LogForm LogFormOf(ParseResult parsed, Func<string, string?> environment)
    {
        var asked = parsed.GetValue(Log) ?? [];
        return asked.Contains("json") ? LogForm.Json
            : asked.Contains("journal") ? LogForm.Journal
            : asked.Contains("debug") || parsed.GetResult(Log) is { Implicit: false } || !JournalWriter.HasStderr(
                environment) ? LogForm.Plain
            : LogForm.Journal;
    }

    public CommonOptions()
    {
        Job.Validators.Add(result =>
        {
            if (result.Tokens is [{ Value: "" }, ..])
                result.AddError("the name of the job file is empty; perhaps a shell variable is not set");
        });
        Value.Validators.Add(result =>
        {
            foreach (var token in result.Tokens.Where(token => token.Value.IndexOf('=', StringComparison.Ordinal) < 1))
                result.AddError($"--value '{token.Value}' is not NAME=VALUE");
        });
        Log.AcceptOnlyFromAmong("plain", "json", "journal", "debug");
        Format.AcceptOnlyFromAmong("text", "json");
        Input.Validators.Add(result =>
        {
            foreach (var token in result.Tokens.Where(token => token.Value.IndexOf('=', StringComparison.Ordinal) < 1))
                result.AddError($"--input '{token.Value}' is not NAME=VALUE");
        });
    }
}
