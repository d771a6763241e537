using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>A table whose rows are one line each: columns that a narrow terminal has no room for are left out, the least needed first.</summary>
/// <param name="heads">The columns; those with a higher rank go first, and rank 0 stays.</param>
internal sealed class FittedTable(params (string Head, bool IsNumber, int Rank)[] heads)
{
    private const int Gap = 2;

    private readonly List<(string[] Cells, IReadOnlyList<string> Notes)> _rows = [];

    /// <summary>Adds a row, and what is said of it on the line below.</summary>
    public void Add(string[] cells, string? note) => _rows.Add((cells, note is null ? [] : [note]));

    /// <summary>Adds a row, and what is said of it, a line each.</summary>
    public void AddWithNotes(string[] cells, IReadOnlyList<string> notes) => _rows.Add((cells, notes));

    public void Write(IAnsiConsole console)
    {
        int[] widths = [.. heads.Select((head, column) => Math.Max(head.Head.Length, _rows.Max(row => row.Cells[column].Length)))];
        var shown = Enumerable.Range(0, heads.Length).ToList();
        while (shown.Sum(column => widths[column] + Gap) - Gap > console.Profile.Width && shown.Exists(column => heads[column].Rank > 0))
            shown.Remove(shown.MaxBy(column => heads[column].Rank));

        string Line(string[] cells) => string.Join(new string(' ', Gap), shown.Select(column => heads[column].IsNumber ? cells[column].PadLeft(widths[column]) : cells[column].PadRight(widths[column]))).TrimEnd();
        console.Say($"[bold]{Line([.. heads.Select(head => head.Head)])}[/]");
        foreach (var (cells, notes) in _rows)
        {
            console.WriteLineAsIs(Line(cells));
            foreach (var note in notes)
                console.Write(new Padder(Shown.Text(note), new Padding(widths[0] + Gap, 0, 0, 0)));
        }
    }
}
