using System.IO.Hashing;
using System.Runtime.InteropServices;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>Pages through one listing, from where it stands to its end.</summary>
public sealed class PullRunner(Pull pull, ApiClient api, PullLanding landing, IReadOnlyList<Input> inputs, PullProgress progress)
{
    private const int Strand = 0;

    private readonly HashSet<ulong> _seen = [];

    /// <summary>Lands every page that is still missing.</summary>
    /// <exception cref="RefusedException">The API refused, or a page is not what the pull expects.</exception>
    public async Task RunAsync(CancellationToken cancel)
    {
        var first = api.Address(PathTemplate.Expand(pull.Get, inputs));
        var last = landing.Last(Strand);
        if (last is { Next: null })
            return;

        using var scanner = new PageScanner(new PageShape(pull.Rows, pull.Paging.NextLink ?? pull.Paging.Cursor, pull.Paging.Total));
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var address = last is null ? first : NextAddress(first, first, last.Next!);
        var request = api.GetAsync(address, stop.Token);
        try
        {
            while (true)
            {
                using var answer = await request;
                var scan = Scan(scanner, answer, address);
                Uri? next = null;
                if (scan.Next is { } text)
                {
                    next = NextAddress(first, address, text);
                    api.CheckWithin(next, address);
                    CheckNew(next, address);

                    // The next page is on its way while this one is written.
                    request = api.GetAsync(next, stop.Token);
                }

                landing.Append(Strand, answer.Body.Content.Slice(scan.Start, scan.Length), scan.Rows, next is null ? null : pull.Paging.NextLink is null ? scan.Next : next.AbsoluteUri);
                progress.Landed(scan.Rows, scan.Total);
                if (next is null)
                    return;
                address = next;
            }
        }
        finally
        {
            await stop.CancelAsync();
            await DropAsync(request);
        }
    }

    private PageScan Scan(PageScanner scanner, Answer answer, Uri address)
    {
        try
        {
            return scanner.Scan(answer.Body);
        }
        catch (PageException error)
        {
            var what = $"page {progress.Pages + 1} of pull '{pull.Name}' is not as expected: {error.Message}";
            throw new RefusedException(Catalogue.Refuse(new Facts(Desk.Api, Trouble.NotUnderstood, answer.Status), what, Quote.From(answer), $"GET {address.AbsoluteUri}, status {answer.Status}"), error);
        }
    }

    private Uri NextAddress(Uri first, Uri current, string next)
    {
        if (pull.Paging.NextLink is null)
            return ApiAddress.WithParameter(first, pull.Paging.Parameter!, next);
        if (Uri.TryCreate(current, next, out var address))
            return address;
        throw new RefusedException(Catalogue.Refuse(new Facts(Desk.Api, Trouble.NotUnderstood), $"the link to the next page of pull '{pull.Name}' is no address: '{next}'", null, $"GET {current.AbsoluteUri}"));
    }

    // Eight bytes a page are kept, so that a circle of any length ends.
    private void CheckNew(Uri next, Uri current)
    {
        _seen.Add(XxHash64.HashToUInt64(MemoryMarshal.AsBytes(current.AbsoluteUri.AsSpan())));
        if (_seen.Contains(XxHash64.HashToUInt64(MemoryMarshal.AsBytes(next.AbsoluteUri.AsSpan()))))
        {
            throw new RefusedException(new Refusal(Outcome.ApiFailed, $"pull '{pull.Name}' would never end: page {progress.Pages + 1} leads back to a page that was read already")
            {
                Cause = "the API repeats a link or cursor, or paging: names the wrong one",
                NextStep = "compare paging: with what a page has",
                Request = $"GET {next.AbsoluteUri}",
            });
        }
    }

    private static async Task DropAsync(Task<Answer> request)
    {
        try
        {
            (await request).Dispose();
        }
        catch (Exception error) when (error is RefusedException or OperationCanceledException or ObjectDisposedException)
        {
            // Whoever awaited it first has told, or the run is being stopped.
        }
    }
}
