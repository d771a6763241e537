using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>
/// A table whose rows are one line each: columns that a narrow terminal has no room for are omitted, the least needed first.
/// </summary>
/// <param name="heads">The columns; those with a higher rank go first, and rank 0 stays.</param>
internal sealed class FittedTable(params (string Head, bool IsNumber, int Rank)[] heads)
{
    private const int Gap = 2;
    private const string Cut = "…";

    /// <summary>The widest that it may be, whatever room there is: what is longer is cut, and notes go on on the next line.</summary>
    public int Widest { get; init; } = int.MaxValue;

    private readonly List<(string[] Cells, IReadOnlyList<string> Notes)> _rows = [];

    /// <summary>Adds a row, and what is said of it on the line below.</summary>
    public void Add(string[] cells, string? note) => _rows.Add((cells, note is null ? [] : [note]));

    /// <summary>Adds a row, and what is said of it, one line each.</summary>
    public void AddWithNotes(string[] cells, IReadOnlyList<string> notes) => _rows.Add((cells, notes));

    public void Write(IAnsiConsole console)
    {
        int[] widths = [.. heads.Select((head, column) => Math.Max(head.Head.Length, _rows.Max(row => row.Cells[column].Length)))];
        var shown = Enumerable.Range(0, heads.Length).ToList();
        var room = Math.Min(console.Profile.Width, Widest);
        int Over() => shown.Sum(column => widths[column] + Gap) - Gap - room;
        while (Over() > 0 && shown.Exists(column => heads[column].Rank > 0))
            shown.Remove(shown.MaxBy(column => heads[column].Rank));
        if (Widest < int.MaxValue && Over() > 0)
            widths[0] = Math.Max(heads[0].Head.Length + 1, widths[0] - Over());

        string Cell(string[] cells, int column)
        {
            var text = cells[column].Length <= widths[column] ? cells[column] : cells[column][..(widths[column] - Cut.Length)] + Cut;
            return heads[column].IsNumber ? text.PadLeft(widths[column]) : text.PadRight(widths[column]);
        }

        string Line(string[] cells) => string.Join(new string(' ', Gap), shown.Select(column => Cell(cells, column))).TrimEnd();
        console.Say($"[bold]{Line([.. heads.Select(head => head.Head)])}[/]");
        var indent = widths[0] + Gap;
        foreach (var (cells, notes) in _rows)
        {
            console.WriteLineAsIs(Line(cells));
            foreach (var line in notes.SelectMany(note => Widest == int.MaxValue ? [note] : Wrapped(note, Widest - indent)))
                console.Write(new Padder(Shown.Text(line), new Padding(indent, 0, 0, 0)));
        }
    }

    private static IEnumerable<string> Wrapped(string text, int width)
    {
        var line = "";
        foreach (var word in text.Split(' '))
        {
            if (line.Length > 0 && line.Length + 1 + word.Length > width)
            {
                yield return line;
                line = "";
            }

            line += (line.Length > 0 ? " " : "") + word;
        }

        yield return line;
    }
}
