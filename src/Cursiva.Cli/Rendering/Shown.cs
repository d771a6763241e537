using Cursiva.Core.Secrets;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>
/// The one way in which values get to a terminal or a pipe: each as one neutralised line (promise 12). Nothing else in this program makes
/// a text or a markup of a value.
/// </summary>
internal static class Shown
{
    /// <summary>A value as a text of a table or a line.</summary>
    public static Text Text(string value, Style? style = null) => new(OneLine.Of(value), style);

    /// <summary>A value inside markup.</summary>
    public static string Escape(string value) => Markup.Escape(OneLine.Of(value));

    /// <summary>Writes a line of our own words with values in it; markup counts in our words alone.</summary>
    public static void Say(this IAnsiConsole console, FormattableString line)
    {
        object?[] values = [.. line.GetArguments().Select(
            value => value is IFormattable or null ? value : OneLine.Of(value.ToString() ?? ""))];
        console.MarkupLineInterpolated(System.Runtime.CompilerServices.FormattableStringFactory.Create(line.Format, values));
    }

    /// <summary>Writes a line that is never wrapped, so that programs and people can copy it whole.</summary>
    public static void WriteLineAsIs(this IAnsiConsole console, string text) => Write(console, OneLine.Of(text));

    /// <summary>
    /// Writes lines of text or JSON as they are; only line breaks get through, and what JSON strings hold stays the same to its readers.
    /// </summary>
    public static void WriteLinesAsIs(this IAnsiConsole console, string text) =>
        Write(console, string.Join('\n', text.Split('\n').Select(line => OneLine.Of(line.TrimEnd('\r')))));

    private static void Write(IAnsiConsole console, string text)
    {
        console.Profile.Out.Writer.Write(text + "\n");
        console.Profile.Out.Writer.Flush();
    }
}
