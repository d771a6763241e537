using System.CommandLine;
using Cursiva.Cli.Help;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva manual</c>, which packages are made with: manual pages and completions of every command, into a folder.</summary>
internal static class ManualCommand
{
    public static Command Build(RootCommand root)
    {
        var folder = new Argument<string>("FOLDER") { Description = "the folder for man1/ and completions/" };
        var command = new Command("manual", "Write the manual pages and the completions of bash, zsh and fish.") { folder };
        command.Hidden = true;
        command.SetAction(parsed => Write(new CommandTree("cursiva", root), parsed.GetValue(folder)!));
        return command;
    }

    private static void Write(CommandTree root, string folder)
    {
        var version = typeof(ManualCommand).Assembly.GetName().Version!.ToString(3);
        var (pages, completions) = (
            Directory.CreateDirectory(Path.Combine(folder, "man1")).FullName,
            Directory.CreateDirectory(Path.Combine(folder, "completions")).FullName);
        foreach (var command in root.All)
            File.WriteAllText(Path.Combine(pages, ManualPage.NameOf(command) + ".1"), ManualPage.Of(command, version));
        File.WriteAllText(Path.Combine(completions, "cursiva.bash"), Completions.ForBash(root));
        File.WriteAllText(Path.Combine(completions, "_cursiva"), Completions.ForZsh(root));
        File.WriteAllText(Path.Combine(completions, "cursiva.fish"), Completions.ForFish(root));
    }
}
