using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>Manual pages and completions say what the commands say of themselves.</summary>
public sealed partial class ManualTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public async Task Every_command_and_option_of_the_help_has_its_place_in_page_and_completions()
    {
        (await App.RunAsync(App.Cursiva, ["manual", _folder["out"]], _folder.Path, [])).ShouldEndWith(0);
        var (bash, zsh, fish) = (File.ReadAllText(_folder["out/completions/cursiva.bash"]), File.ReadAllText(_folder["out/completions/_cursiva"]), File.ReadAllText(_folder["out/completions/cursiva.fish"]));
        List<string> commands = ["cursiva"];
        var count = 0;
        for (var i = 0; i < commands.Count; i++)
        {
            var help = (await App.RunAsync(App.Cursiva, [.. commands[i].Split(' ')[1..], "--help"], _folder.Path, [])).ShouldEndWith(0).Out;
            commands.AddRange(Subcommands().Matches(help).Select(found => $"{commands[i]} {found.Groups[1].Value}"));
            var page = File.ReadAllText(_folder[$"out/man1/{commands[i].Replace(' ', '-')}.1"]);
            page.ShouldContain($".SH NAME\n{commands[i].Replace(" ", "\\-").Replace("sign-in", "sign\\-in")} \\- ");
            var options = Options().Matches(help).Select(found => found.Value).Distinct().Where(option => option != "--help" || i == 0).ToList();
            count += options.Count;
            foreach (var option in options)
            {
                page.ShouldContain($"\\fB{option.Replace("-", "\\-")}\\fR");
                Regex.Match(bash, $"'{commands[i]}'\\) words='([^']*)'").Groups[1].Value.Split(' ').ShouldContain(option);
                zsh.ShouldContain($"'{option}:");
                fish.ShouldContain($" -l {option[2..]} ");
            }
        }

        commands.Count.ShouldBeGreaterThan(20);
        count.ShouldBeGreaterThan(100);
        Directory.GetFiles(_folder["out/man1"]).Length.ShouldBe(commands.Count);
        (await App.RunAsync("bash", ["-n", _folder["out/completions/cursiva.bash"]], _folder.Path, [])).ShouldEndWith(0);
    }

    [Theory]
    [InlineData("cursiva ru", "run runs")]
    [InlineData("cursiva runs c", "compare")]
    [InlineData("cursiva secret keep --exp", "--expires")]
    public async Task Bash_completes_commands_and_options(string typed, string completed)
    {
        (await App.RunAsync(App.Cursiva, ["manual", _folder["out"]], _folder.Path, [])).ShouldEndWith(0);
        var script = $"source {_folder["out/completions/cursiva.bash"]}; COMP_WORDS=({typed}); COMP_CWORD=$((${{#COMP_WORDS[@]}} - 1)); _cursiva; echo ${{COMPREPLY[@]}}";
        (await App.RunAsync("bash", ["-c", script], _folder["out/man1"], [])).ShouldEndWith(0).Out.Trim().ShouldBe(completed);
    }

    [Theory]
    [InlineData("cursiva ru", "run runs")]
    [InlineData("cursiva runs c", "compare")]
    [InlineData("cursiva secret keep --exp", "--expires")]
    public async Task Fish_completes_commands_and_options(string typed, string completed)
    {
        Tools.Require("fish");
        (await App.RunAsync(App.Cursiva, ["manual", _folder["out"]], _folder.Path, [])).ShouldEndWith(0);

        // Where there are files, they are offered beside the commands.
        var empty = Directory.CreateDirectory(_folder["empty"]).FullName;
        var said = (await App.RunAsync("fish", ["--no-config", "-c", $"source {_folder["out/completions/cursiva.fish"]}; complete -C '{typed}'"], empty, [])).ShouldEndWith(0).Out;
        string.Join(' ', said.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(line => line.Split('\t')[0])).ShouldBe(completed);
    }

    [Theory]
    [InlineData("cursiva runs c", "compare  --")]
    [InlineData("cursiva secret keep --exp", "cursiva secret keep --expires")]
    public async Task Zsh_completes_commands_and_options(string typed, string completed)
    {
        Tools.Require("zsh");
        (await App.RunAsync(App.Cursiva, ["manual", _folder["out"]], _folder.Path, [])).ShouldEndWith(0);
        var said = await App.RunAsync("timeout", ["20", "zsh", "-f", "-c", Typing, "zsh", _folder["out/completions"], typed, completed], _folder["out/man1"], [("TERM", "xterm")]);
        said.ShouldEndWith(0).Out.ShouldContain(completed);
    }

    // A shell in a terminal of its own, in which somebody types and asks for completions, until the wanted one is shown.
    private const string Typing = """
        zmodload zsh/zpty
        zpty shell zsh -f -i
        zpty -w shell "PS1='> '; fpath=($1 \$fpath); autoload -U compinit; compinit -u -D; LISTMAX=10000; echo READY"
        zpty -r -m shell said '*READY*READY*'
        sleep 0.5
        zpty -nw shell "$2"$'\t'
        sleep 0.5
        zpty -nw shell $'\t'
        shown=
        while zpty -r shell said; do shown+=$said; [[ $shown == *$3* ]] && break; done
        print -r -- "$shown"
        zpty -d shell
        """;

    // The section of commands has two spaces before each.
    [GeneratedRegex(@"(?<=Commands:\n(?:  .*\n)*)  ([a-z-]+)\b")]
    private static partial Regex Subcommands();

    [GeneratedRegex(@"(?<=\n  (?:-[\w?], )*)--[a-z-]+")]
    private static partial Regex Options();
}
