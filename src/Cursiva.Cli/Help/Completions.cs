using System.CommandLine;
using System.Text;

namespace Cursiva.Cli.Help;

/// <summary>Completions of a shell: commands and options; made from the commands themselves.</summary>
internal static class Completions
{
    /// <summary>For bash, with its own builtins alone.</summary>
    public static string ForBash(CommandTree root) => $$"""
        # bash completion for cursiva; made from its commands.
        _cursiva() {
          local path=cursiva word i
          for ((i = 1; i < COMP_CWORD; i++)); do
            word=${COMP_WORDS[i]}
            case "$path $word" in
        {{string.Concat(root.All.Skip(1).Select(command => $"      '{command.Path}') path='{command.Path}' ;;\n"))}}    esac
          done
          local words= files=
          case $path in
        {{string.Concat(root.All.Select(command => $"    '{command.Path}') words='{string.Join(' ', WordsOf(command))}'{(command.Below.Any() ? "" : " files=1")} ;;\n"))}}  esac
          COMPREPLY=($(compgen -W "$words" -- "${COMP_WORDS[COMP_CWORD]}"))
          [[ -z $files || ${COMP_WORDS[COMP_CWORD]} == -* ]] || COMPREPLY+=($(compgen -f -- "${COMP_WORDS[COMP_CWORD]}"))
        }
        complete -o filenames -F _cursiva cursiva

        """;

    /// <summary>For zsh, as a function of its completion system.</summary>
    public static string ForZsh(CommandTree root) => $$"""
        #compdef cursiva
        # zsh completion for cursiva; made from its commands.
        local path=cursiva word
        for word in ${words[2,CURRENT-1]}; do
          case "$path $word" in
        {{string.Concat(root.All.Skip(1).Select(command => $"    '{command.Path}') path='{command.Path}' ;;\n"))}}  esac
        done
        local -a entries
        case $path in
        {{string.Concat(root.All.Select(command => $"  '{command.Path}') entries=({string.Join(' ', EntriesOf(command).Select(entry => $"'{entry.Word}:{entry.Meaning.Replace("'", "'\\''").Replace(":", "\\:")}'"))}) ;;\n"))}}esac
        _describe cursiva entries
        [[ $PREFIX == -* ]] || _files

        """;

    /// <summary>For fish.</summary>
    public static string ForFish(CommandTree root)
    {
        var lines = new StringBuilder("# fish completion for cursiva; made from its commands.\n");
        foreach (var command in root.All)
        {
            var names = command.Path.Split(' ')[1..];
            var seen = string.Concat(names.Select(name => $"__fish_seen_subcommand_from {name}; and "));
            var here = command.Below.Any()
                ? $"{seen}not __fish_seen_subcommand_from {string.Join(' ', command.Below.Select(below => below.Command.Name))}"
                : seen.EndsWith(
                "; and ", StringComparison.Ordinal) ? seen[..^6] : seen;
            foreach (var below in command.Below)
                lines.Append($"complete -c cursiva -n '{here}' -a {below.Command.Name} -d '{Quoted(below.Command.Description)}'\n");
            foreach (var option in command.Options)
                lines.Append(
                    $"complete -c cursiva -n '{here}' {string.Join(' ', CommandTree.NamesOf(option).Select(name => name.StartsWith("--", StringComparison.Ordinal) ? $"-l {name[2..]}" : $"-s {name[1..]}"))}{(CommandTree.TakesValue(option) ? " -r" : "")} -d '{Quoted(option.Description)}'\n");
        }

        return lines.ToString();
    }

    private static IEnumerable<string> WordsOf(CommandTree command) => EntriesOf(command).Select(entry => entry.Word);

    private static IEnumerable<(string Word, string Meaning)> EntriesOf(CommandTree command) =>
        command.Below.Select(below => (below.Command.Name, below.Command.Description ?? "")).Concat(
            command.Options.SelectMany(option => CommandTree.NamesOf(option).Select(name => (name, option.Description ?? ""))));

    private static string Quoted(string? text) => (text ?? "").Replace("\\", "\\\\").Replace("'", "\\'");
}
