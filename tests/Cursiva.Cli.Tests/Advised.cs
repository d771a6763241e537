using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>
/// A message of the program that tells a command. A test names it, provokes it, runs the command as it was printed, and sees that it does what it
/// promises; <see cref="AdviceTests"/> compares the names with the messages that the source has.
/// </summary>
/// <param name="File">The source file that has the message.</param>
/// <param name="What">Words of the message that no other one of the file has; empty where the step says enough.</param>
/// <param name="Step">The advice as the source has it, from its beginning; what the program fills in ends what is compared.</param>
internal sealed partial record Advised(string File, string What, string Step)
{
    private const string Shell = "cursiva() { \"$CURSIVA\" \"$@\"; }; ";

    /// <summary>The commands that an output tells in this message, as they were printed.</summary>
    public IReadOnlyList<string> CommandsIn(string output)
    {
        output.ShouldContain(Shown(What), Case.Sensitive);
        output.ShouldContain(Shown(Step), Case.Sensitive);
        var advice = output[output.IndexOf(Shown(Step), StringComparison.Ordinal)..].Split('\n')[0];
        var commands = Commands().Matches(advice).Select(match => match.Value.TrimEnd(' ', '.', ':')).ToList();
        commands.ShouldNotBeEmpty(output);
        return commands;
    }

    /// <summary>The one command, or the first of several.</summary>
    public string CommandIn(string output) => CommandsIn(output)[0];

    /// <summary>Runs a command as a shell does that knows <c>cursiva</c>.</summary>
    public static Task<Ended> RunAsync(string command, string folder, IEnumerable<(string, string?)> environment, string? input = null) =>
        App.RunAsync("bash", ["-c", Shell + command], folder, [.. environment, ("CURSIVA", App.Cursiva)], input: input);

    // What stands before the first value that the program fills in.
    private static string Shown(string text) => text.Split('{')[0];

    // Up to the end of the clause, whether a sign or a verb begins the next one; quoted words are whole.
    [GeneratedRegex(@"cursiva (?:'(?:[^'\n]|'\\'')*'|(?! (?:shows|tells|sends|sorts|keeps|names|writes|asks|gives|does|finds|makes|made|has|prints|them|and|or)\b)[^;,()\n'""])+")]
    private static partial Regex Commands();
}
