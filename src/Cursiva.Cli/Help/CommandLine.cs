using System.CommandLine;
using System.CommandLine.Parsing;
using Cursiva.Core.Jobs;

namespace Cursiva.Cli.Help;

/// <summary>What a command line means before it is parsed: the ways to ask for help, and options that do not exist.</summary>
internal static class CommandLine
{
    private const string HelpWord = "help";

    /// <summary>
    /// The arguments with every way to ask for help turned into one: <c>help</c>, <c>help COMMAND</c>, <c>COMMAND help</c>, or nothing at
    /// all.
    /// </summary>
    public static string[] WithHelp(string[] args)
    {
        if (args.Length == 0)
            return ["--help"];
        if (args[0] == HelpWord)
            return args is [_, var topic] && Topics.All.ContainsKey(topic) ? args : [.. args[1..], "--help"];

        // A job file may be called help; a command without one is asked about.
        return args.Length is 2 or 3 && args[^1] == HelpWord && !File.Exists(HelpWord) ? [.. args[..^1], "--help"] : args;
    }

    /// <summary>The topic that is asked for; null for none.</summary>
    public static string? TopicOf(string[] args) =>
        args is [HelpWord, var topic] && Topics.All.TryGetValue(topic, out var text) ? text : null;

    /// <summary>The words for an option that does not exist, with the nearest one that does; null when all are known.</summary>
    /// <remarks>The parser would take an unknown option for an argument, and blame what follows it.</remarks>
    public static string? UnknownOption(ParseResult parsed, IReadOnlyList<string> args)
    {
        var known = new Dictionary<string, Option>(StringComparer.Ordinal);
        for (var result = parsed.CommandResult; result is not null; result = result.Parent as CommandResult)
        {
            foreach (var option in result.Command.Options.Where(option => result == parsed.CommandResult || option.Recursive))
            {
                foreach (var name in option.Aliases.Append(option.Name))
                    known.TryAdd(name, option);
            }
        }

        for (var i = 0; i < args.Count && args[i] != "--"; i++)
        {
            var name = args[i].Split('=')[0];
            if (!name.StartsWith("--", StringComparison.Ordinal))
                continue;
            if (!known.TryGetValue(name, out var option))
                return $"there is no option {name}; {Nearest.Hint(name, [.. known.Keys.Where(key => key.StartsWith("--", StringComparison.Ordinal))], "options")}";
            if (option.Arity.MinimumNumberOfValues > 0 && !args[i].Contains('='))
                i++; // Its value, whatever that looks like.
        }

        return null;
    }
}
