namespace Cursiva.Core.Jobs;

/// <summary>The columns that a pull's <c>key:</c> becomes.</summary>
public static class KeyColumns
{
    /// <summary>The columns that tell the rows of a pull apart; empty where it declares none.</summary>
    public static IReadOnlyList<string> Of(Pull pull) =>
        [.. pull.Key.Select(at => pull.Columns.FirstOrDefault(column => column.At.Text == at.Text)?.Name ?? string.Join('_', at.Segments))];
}
