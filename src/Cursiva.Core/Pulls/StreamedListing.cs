using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>Reads a listing that is one stream. It has no pages to go on from: what was cut short begins again.</summary>
internal sealed class StreamedListing(StrandRun run)
{
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
                var end = new StreamEnd(null, Ending.StreamEnd)
                {
                    Check = rows => { run.CheckWindow(rows, null); return Task.CompletedTask; },
                    VerifiedBy = answer.VerifiedBy,
                };
                if (run.Pull.Paging.Stream == StreamForm.Csv)
                    await CsvListing.LandAsync(run, answer.Stream!, request, end, cancel);
                else
                    await LandAsync(run, answer.Stream!, run.Pull.Paging.Stream, request, end, cancel);
                return;
            }
            catch (WindowTooLarge)
            {
                run.Halve();
                return;
            }
            catch (TransportException error) when (attempt < Retries.BrokenStream)
            {
                run.DropPieces();
                await run.WaitToRepeatAsync(request, error.Message, attempt, cancel);
            }
            catch (TransportException error)
            {
                run.DropPieces();
                throw new RefusedException(
                    Catalogue.Refuse(
                        new Facts(Desk.Api, error.Trouble),
                        $"API '{run.Client.Name}' broke off a stream {attempt} times: {error.Message}",
                        null,
                        $"{request.Method} {ShownAddress.Of(request.Uri)}"),
                    error);
            }
        }
    }

    /// <summary>Lands a stream of rows in pieces; only the last one makes them count.</summary>
    public static async Task LandAsync(
        StrandRun run, Stream stream, StreamForm form, ApiRequest request, StreamEnd end, CancellationToken cancel)
    {
        var splitter = new StreamSplitter(form, 256 * 1024, 64L * 1024 * 1024);
        using var scanner = new PageScanner(
            new PageShape(
                run.Pull.Rows with
                {
                    At = JsonPointer.TryParse("")!,
                    Form = run.Pull.Rows.Form == RowsForm.Batches ? RowsForm.Batches : RowsForm.Array,
                },
                run.Pull.Drop,
                Paging.OnePage));
        var buffer = new byte[64 * 1024];
        var rows = 0L;
        try
        {
            while (await stream.ReadAsync(buffer, cancel) is > 0 and var count)
            {
                splitter.Add(buffer.AsSpan(0, count));
                while (splitter.Next() is { } piece)
                {
                    using (piece)
                        Land(scanner.Scan(piece));
                }
            }

            using var last = splitter.TakeLast();
            var scan = last is null ? default : scanner.Scan(last);
            run.Context.Places.Saw(scan);
            if (end.Check is { } check)
                await check(rows + scan.Rows);
            run.Land(last is null ? [] : scanner.Lines, scan.Rows, end.Next, ended: end.Ended, verifiedBy: end.VerifiedBy);
        }
        catch (PageException error)
        {
            throw run.Refuse(
                new PageException($"{error.Message} (in the piece that begins at byte {splitter.Offset} of the stream)"), request, 200, []);
        }

        void Land(PageScan scan)
        {
            rows += scan.Rows;
            run.Context.Places.Saw(scan);
            run.Land(scanner.Lines, scan.Rows, GoesOn, isPiece: true, verifiedBy: end.VerifiedBy);
        }
    }
}
