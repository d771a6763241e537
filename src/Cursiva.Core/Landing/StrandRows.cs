namespace Cursiva.Core.Landing;

/// <summary>The rows of a pull in one landing, and the strands that they belong to.</summary>
/// <param name="values">The values of strands, JSON objects by strand.</param>
public sealed class StrandRows(LandedRows rows, IReadOnlyDictionary<string, string> values)
{
    /// <summary>Takes a row: the values of its strand, what it takes along, and its line with the line break.</summary>
    public delegate void RowReader(string values, ReadOnlySpan<byte> carried, ReadOnlySpan<byte> line);

    /// <summary>Rows in all.</summary>
    public long Count => rows.Count;

    /// <summary>Reads every row, one at a time, in order.</summary>
    /// <exception cref="LandingDamagedException">A page is not there as it was committed.</exception>
    public void Read(RowReader read, CancellationToken cancel) => rows.Read(
        (strand, lines) =>
        {
            var carried = rows.Carried(strand);
            var of = values.GetValueOrDefault(strand) ?? LandedStrand.NoValues;
            for (var at = 0; at < lines.Length;)
            {
                var end = at + lines[at..].IndexOf((byte)'\n') + 1;
                read(of, carried, lines[at..end]);
                at = end;
            }
        },
        cancel);
}
