using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tables as every command draws them.</summary>
internal static class Tables
{
    /// <summary>A table with a head, and no lines that a pipe would have to read past.</summary>
    public static Table Plain(params ReadOnlySpan<string> heads)
    {
        var table = new Table().Border(TableBorder.None);
        foreach (var head in heads)
            table.AddColumn(
                new TableColumn(Shown.Text(head, new Style(decoration: Decoration.Bold))) { Padding = new Padding(0, 0, 3, 0) });
        return table;
    }
}
