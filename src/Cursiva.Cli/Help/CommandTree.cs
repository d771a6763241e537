using System.CommandLine;

namespace Cursiva.Cli.Help;

/// <summary>A command with its full name, as pages and completions tell it.</summary>
/// <param name="Path">The names of the command and those above it.</param>
internal sealed record CommandTree(string Path, Command Command)
{
    /// <summary>The options that stand in its help, in order.</summary>
    public IEnumerable<Option> Options => Command.Options.Where(option => !option.Hidden);

    public IEnumerable<CommandTree> Below =>
        Command.Subcommands.Where(command => !command.Hidden).Select(command => new CommandTree($"{Path} {command.Name}", command));

    /// <summary>This command and all below it, each before those below it.</summary>
    public IEnumerable<CommandTree> All => Below.SelectMany(below => below.All).Prepend(this);

    /// <summary>An option's names, the long one last.</summary>
    public static IReadOnlyList<string> NamesOf(Option option) =>
        [.. option.Aliases.Append(option.Name).Where(name => name.StartsWith('-') && name is not "-?").Distinct().OrderBy(
            name => name.Length)];

    /// <summary>Whether a value follows an option.</summary>
    public static bool TakesValue(Option option) => option.Arity.MaximumNumberOfValues > 0 && option.ValueType != typeof(bool);
}
