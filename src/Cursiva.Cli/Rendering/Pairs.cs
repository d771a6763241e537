using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>
/// Names, each with a text beside it, and numbers between them where there are any; on a narrow terminal the text stands below.
/// </summary>
internal sealed class Pairs
{
    private const int Narrow = 60;

    private readonly List<(string Name, string? Number, string Text)> _lines = [];

    /// <summary>Whether there is no line.</summary>
    public bool IsEmpty => _lines.Count == 0;

    /// <summary>Adds a name and a text.</summary>
    public void Add(string name, string text) => _lines.Add((name, null, text));

    /// <summary>Adds a name, a number that is lined up with those of other lines, and a text.</summary>
    public void Add(string name, string number, string text) => _lines.Add((name, number, text));

    public void Write(IAnsiConsole console)
    {
        if (IsEmpty)
            return;
        if (console.Profile.Width < Narrow)
            WriteBelow(console);
        else
            WriteBeside(console);
    }

    private void WriteBeside(IAnsiConsole console)
    {
        var hasNumbers = _lines.Exists(line => line.Number is not null);
        var grid = new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) });
        if (hasNumbers)
            grid.AddColumn(new GridColumn { NoWrap = true, Alignment = Justify.Right, Padding = new Padding(0, 0, 2, 0) });
        grid.AddColumn();
        foreach (var (name, number, text) in _lines)
            grid.AddRow(hasNumbers ? [Shown.Text(name), Shown.Text(number ?? ""), Shown.Text(text)] : [Shown.Text(name), Shown.Text(text)]);
        console.Write(grid);
    }

    private void WriteBelow(IAnsiConsole console)
    {
        foreach (var (name, number, text) in _lines)
        {
            if (name.Length > 0)
                console.Write(new Padder(Shown.Text(name), new Padding(2, 0, 0, 0)));
            console.Write(new Padder(Shown.Text(number is null ? text : $"{number} {text}"), new Padding(4, 0, 0, 0)));
        }
    }
}
