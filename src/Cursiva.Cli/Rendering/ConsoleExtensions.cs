using Spectre.Console;

namespace Cursiva.Cli.Rendering;

internal static class ConsoleExtensions
{
    /// <summary>Writes a line that is never wrapped, so that programs and people can copy it whole.</summary>
    public static void WriteLineAsIs(this IAnsiConsole console, string text)
    {
        console.Profile.Out.Writer.Write(text + "\n");
        console.Profile.Out.Writer.Flush();
    }
}
