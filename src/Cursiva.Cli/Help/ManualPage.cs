using System.CommandLine;
using System.Text;
using Cursiva.Core.Jobs;

namespace Cursiva.Cli.Help;

/// <summary>A manual page of a command, in the macros of man(7); made from the command itself.</summary>
internal static class ManualPage
{
    /// <summary>The name of a command's page, without its section.</summary>
    public static string NameOf(CommandTree command) => command.Path.Replace(' ', '-');

    /// <summary>The page, ending with a line break.</summary>
    public static string Of(CommandTree command, string version)
    {
        var page = new StringBuilder();
        page.Append($".TH {NameOf(command).ToUpperInvariant()} 1 \"\" \"Cursiva {version}\" \"User Commands\"\n");
        page.Append($".SH NAME\n{Text(NameOf(command))} \\- {Text(FirstWordsOf(command.Command.Description ?? ""))}\n");
        page.Append($".SH SYNOPSIS\n.B {Text(command.Path)}\n{Text(Synopsis(command))}\n");
        page.Append($".SH DESCRIPTION\n{Text(command.Command.Description ?? "")}\n");
        if (command.Below.Any())
            page.Append(".SH COMMANDS\n").AppendJoin(
                "",
                command.Below.Select(
                    below => $".TP\n.B {Text(below.Path)}\n{Text(below.Command.Description ?? "")} See {Text(NameOf(below))}(1).\n"));
        if (command.Command.Arguments.Count > 0)
            page.Append(".SH ARGUMENTS\n").AppendJoin(
                "", command.Command.Arguments.Select(argument => $".TP\n.I {Text(argument.Name)}\n{Text(argument.Description ?? "")}\n"));
        if (command.Options.Any())
            page.Append(".SH OPTIONS\n").AppendJoin(
                "",
                command.Options.Select(
                    option => $".TP\n{string.Join(", ", CommandTree.NamesOf(option).Select(name => $"\\fB{Text(name)}\\fR"))}{(CommandTree.TakesValue(option) ? $" \\fI{Text(option.Name.TrimStart('-').ToUpperInvariant())}\\fR" : "")}\n{Text(option.Description ?? "")}\n"));
        if (Examples.All.TryGetValue(command.Path, out var examples))
            page.Append(".SH EXAMPLES\n.nf\n").AppendJoin("", examples.Select(example => Text(example) + "\n")).Append(".fi\n");
        if (command.Path == "cursiva")
            page.Append(".SH EXIT STATUS\n.nf\n").Append(Text(Topics.All["exit-codes"])).Append("\n.fi\n");
        page.Append($".SH FILES\n.TP\n.I ~/.local/state/cursiva\nThe state folder, unless \\-\\-state, CURSIVA_STATE or STATE_DIRECTORY names another one.\n.TP\n.I /usr/share/doc/cursiva\nThe guides, and examples of jobs ({Text("NAME" + JobReader.Suffix)}).\n");
        return page.ToString();
    }

    private static string Synopsis(CommandTree command) =>
        string.Join(
            ' ',
            [
                .. command.Command.Arguments.Select(
                    argument => argument.Arity.MinimumNumberOfValues == 0 ? $"[{argument.Name}]" : argument.Name),
                .. command.Below.Any() ? ["COMMAND"] : Array.Empty<string>(),
                "[OPTION]...",
            ]);

    // What stands behind the dash is one line that whatis(1) shows.
    private static string FirstWordsOf(string description) =>
        description.Split(['.', ':', ';'])[0] is var words ? words[..1].ToLowerInvariant() + words[1..] : "";

    // A line must not begin with a dot or a quote, and a hyphen that is typed is no hyphen of a word.
    private static string Text(string text) =>
        string.Join(
            '\n',
            text.Split('\n').Select(
                line => line.Replace("\\", "\\e").Replace("-", "\\-") is var escaped && escaped is ['.' or '\'', ..]
                    ? "\\&" + escaped
                    : escaped));
}
