namespace Cursiva.Core.Jobs;

/// <summary>SQL as it stands in the job file.</summary>
/// <param name="Place">Where its first line stands.</param>
/// <param name="Indent">Columns that the job file indents it by, so that places in it can be told as places in the file; -1 when they
/// cannot.</param>
public sealed record SqlSource(string Text, Place Place, int Indent)
{
    /// <summary>A place in the SQL as a place in the job file.</summary>
    /// <param name="position">Character in the SQL, from 0; null for the SQL as a whole.</param>
    public Place At(int? position)
    {
        // Only a block scalar stands in the file as it is in the SQL.
        if (position is not { } at || Indent < 0 || at > Text.Length)
            return Place;

        var before = Text[..at];
        var line = before.Count(c => c == '\n');
        var column = at - (before.LastIndexOf('\n') + 1);
        return new Place(Place.File, Place.Line + line, Indent + column + 1);
    }
}
