using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>Reads a listing that is one stream. It has no pages to go on from: what was cut short begins again.</summary>
internal sealed class StreamedListing(StrandRun run)
{
    private const int Attempts = 4;
    private const string GoesOn = "stream";

    /// <summary>Lands the whole stream.</summary>
    /// <exception cref="RefusedException">The API refused, or the stream is not what the pull expects.</exception>
    public async Task RunAsync(CancellationToken cancel)
    {
        var request = run.Requests.At(null) with { Streams = true };
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                using var answer = await run.SendAsync(request, null, goesOn: false, cancel);
                if (run.Pull.Paging.Stream == StreamForm.Csv)
                    await CsvListing.LandAsync(run, answer.Stream!, request, null, Ending.StreamEnd, cancel);
                else
                    await LandAsync(run, answer.Stream!, run.Pull.Paging.Stream, request, null, Ending.StreamEnd, cancel);
                return;
            }
            catch (TransportException error) when (attempt < Attempts)
            {
                run.DropPieces();
                await run.WaitToRepeatAsync(request, error.Message, attempt, cancel);
            }
            catch (TransportException error)
            {
                run.DropPieces();
                throw new RefusedException(Catalogue.Refuse(new Facts(Desk.Api, error.Trouble), $"API '{run.Client.Name}' broke off a stream {attempt} times: {error.Message}", null, $"{request.Method} {ShownAddress.Of(request.Uri)}"), error);
            }
        }
    }

    /// <summary>Lands a stream of rows in pieces; only the last one makes them count.</summary>
    /// <param name="next">Where the strand goes on behind the stream; null when it has ended.</param>
    /// <param name="end">Why it has ended then.</param>
    public static async Task LandAsync(StrandRun run, Stream stream, StreamForm form, ApiRequest request, string? next, Ending end, CancellationToken cancel)
    {
        var splitter = new StreamSplitter(form, 256 * 1024, 64L * 1024 * 1024);
        using var scanner = new PageScanner(new PageShape(run.Pull.Rows with { At = JsonPointer.TryParse("")!, Form = run.Pull.Rows.Form == RowsForm.Batches ? RowsForm.Batches : RowsForm.Array }, run.Pull.Drop, new Paging(PagingStyle.OnePage)));
        var buffer = new byte[64 * 1024];
        try
        {
            while (await stream.ReadAsync(buffer, cancel) is > 0 and var count)
            {
                splitter.Add(buffer.AsSpan(0, count));
                while (splitter.Take() is { } piece)
                    LandPiece(piece, isLast: false);
            }

            if (splitter.TakeLast() is { } last)
                LandPiece(last, isLast: true);
            else
                run.Land([], 0, next, ended: next is null ? end : null);
        }
        catch (PageException error)
        {
            throw run.Refuse(new PageException($"{error.Message} (in the piece that begins at byte {splitter.Offset} of the stream)"), request, 200, []);
        }

        void LandPiece(PageBuffer piece, bool isLast)
        {
            using (piece)
            {
                var scan = scanner.Scan(piece);
                run.Land(scanner.Lines, scan.Rows, isLast ? next : GoesOn, isPiece: !isLast, ended: isLast && next is null ? end : null);
            }
        }
    }
}
