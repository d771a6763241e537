namespace Cursiva.Core.Pulls;

/// <summary>Takes white space outside strings out of rows, for pages that are written for people.</summary>
internal static class RowCompaction
{
    /// <summary>Moves the rows together, in place.</summary>
    /// <param name="rows">Checked objects with a line break between them and at the end; any other white space anywhere.</param>
    /// <returns>The length of the result: one line a row.</returns>
    public static int Compact(Span<byte> rows)
    {
        int read = 0, written = 0, depth = 0;
        while (read < rows.Length)
        {
            var b = rows[read];
            switch (b)
            {
                case (byte)'"':
                    var end = read + 1;
                    while (rows[end] != '"')
                        end += rows[end] == '\\' ? 2 : 1;
                    rows[read..(end + 1)].CopyTo(rows[written..]);
                    written += end + 1 - read;
                    read = end + 1;
                    continue;
                case (byte)'\n' when depth == 0 && written > 0 && rows[written - 1] != '\n':
                    rows[written++] = b;
                    break;
                case (byte)'\n' or (byte)'\r' or (byte)'\t' or (byte)' ':
                    break;
                default:
                    depth += b is (byte)'{' or (byte)'[' ? 1 : b is (byte)'}' or (byte)']' ? -1 : 0;
                    rows[written++] = b;
                    break;
            }

            read++;
        }

        return written;
    }
}
