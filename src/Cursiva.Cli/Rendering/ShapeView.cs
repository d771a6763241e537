using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Drafts;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Draws the shape of answers or rows as a tree.</summary>
internal static class ShapeView
{
    public static void Show(IAnsiConsole console, bool json, Shape shape)
    {
        List<ShapeLine> lines = [.. ShapeLine.All(shape.Root)];
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize([.. lines], CliJson.Default.ShapeLineArray));
            return;
        }

        var table = Tables.Plain("member", "type", "there", "such as");
        foreach (var line in lines)
            table.AddRow(
                Shown.Text(Name(line.Place)),
                Shown.Text(string.Join(" or ", line.Types)),
                Shown.Text(There(line)),
                Shown.Text(string.Join(", ", line.Examples)));
        console.Write(table);
    }

    private static string Name(string place)
    {
        var depth = place.Count(c => c == '/');
        var name = place[(place.LastIndexOf('/') + 1)..].Replace("~1", "/", StringComparison.Ordinal).Replace(
            "~0", "~", StringComparison.Ordinal);
        return place.Length == 0 ? "(top)" : new string(' ', depth * 2) + (name == "*" ? "each" : name);
    }

    private static string There(ShapeLine line)
    {
        if (line.Place.Length == 0)
            return line.Seen == 1 ? "" : $"{line.Seen:N0} rows";
        if (line.Place.EndsWith("/*", StringComparison.Ordinal))
            return $"{line.Seen:N0} times";
        return line.Seen == line.Of ? "always" : string.Create(CultureInfo.InvariantCulture, $"{line.Seen:N0} of {line.Of:N0}");
    }
}
