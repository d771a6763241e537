using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Apis;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Lands rows that come as CSV, as they arrive.</summary>
internal static class CsvListing
{
    private const int RowsAPiece = 1000;
    private const string GoesOn = "stream";

    /// <summary>Lands them in pieces; only the last one makes them count.</summary>
    public static async Task LandAsync(StrandRun run, Stream stream, ApiRequest request, StreamEnd end, CancellationToken cancel)
    {
        var (lines, rows) = (new StringBuilder(), 0);
        try
        {
            using var reader = new StreamReader(stream, new UTF8Encoding(false, throwOnInvalidBytes: true));
            await foreach (var row in CsvRows.ReadAsync(reader, run.Client.LargestPage, cancel))
            {
                foreach (var dropped in run.Pull.Drop.Where(at => at.Segments.Count == 1))
                    row.Remove(dropped.Segments[0]);
                lines.Append(row.ToJsonString()).Append('\n');
                if (++rows % RowsAPiece != 0)
                    continue;
                run.Land(Encoding.UTF8.GetBytes(lines.ToString()), RowsAPiece, GoesOn, isPiece: true, verifiedBy: end.VerifiedBy);
                lines.Clear();
            }

            if (end.Check is { } check)
                await check(rows);
            run.Land(Encoding.UTF8.GetBytes(lines.ToString()), rows % RowsAPiece, end.Next, ended: end.Ended, verifiedBy: end.VerifiedBy);
        }
        catch (Exception error) when (error is PageException or DecoderFallbackException or CsvHelper.MaxFieldSizeException)
        {
            throw run.Refuse(
                error as PageException
                    ?? new PageException(
                        error is DecoderFallbackException
                            ? "the CSV is not UTF-8"
                            : $"a field is larger than {run.Client.LargestPage / (1024 * 1024)} MiB (largest-page:), often because a quote is never closed"),
                request,
                200,
                []);
        }
    }
}
