using System.IO.Hashing;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;

namespace Cursiva.Core.Checks;

/// <summary>Takes single pages of a pull, just as a run would, and lands nothing.</summary>
/// <param name="send">Sends a request to the pull's API.</param>
/// <param name="mostRows">Rows of a page that are looked at.</param>
internal sealed class PageLook(Pull pull, StrandRequests requests, Func<ApiRequest, CancellationToken, Task<Answer>> send, int mostRows)
{
    /// <summary>How pages follow each other.</summary>
    public Pager Pager { get; } = (Pager)ListingStyle.Of(pull.Paging);

    /// <summary>The first page.</summary>
    /// <exception cref="PageException">It has not what the pull declares.</exception>
    /// <exception cref="Refusals.RefusedException">The API refused it.</exception>
    public Task<SeenPage> FirstAsync(CancellationToken cancel) => AtAsync(Pager.First, 0, 0, cancel);

    /// <summary>The page behind others.</summary>
    /// <param name="before">Rows of the pages before it.</param>
    /// <param name="largest">Rows of the largest page before it.</param>
    /// <exception cref="PageException">It has not what the pull declares.</exception>
    /// <exception cref="Refusals.RefusedException">The API refused it.</exception>
    public async Task<SeenPage> AtAsync(string? position, long before, int largest, CancellationToken cancel)
    {
        var request = requests.At(position);
        using var answer = await send(
            before == 0 ? request : request with { Expects = answer => answer.Status == pull.Paging.EndStatus }, cancel);
        if (PageEnvelope.IsBehindTheLast(pull.Paging, answer))
            return new SeenPage(default, Way.End(answer.IsSuccess ? Ending.EmptyPage : Ending.NoPage), PageSigns.None, 0, []);
        var signs = PageSigns.Of(answer, pull.Rows.At);
        using var scanner = new PageScanner(new PageShape(pull.Rows, pull.Drop, pull.Paging));
        var scan = PageEnvelope.Counted(scanner.Scan(answer.Body), pull.Paging, answer);
        var lines = scanner.Lines.ToArray();
        var rows = Encoding.UTF8
            .GetString(lines)
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Take(mostRows)
            .Select(Encoding.UTF8.GetBytes)
            .ToList();
        var way = Pager.Next(new PageFacts(answer, request.Uri, scan, Pager.LastKey(lines), before == 0, before, largest), position);
        return new SeenPage(scan, way, signs, XxHash3.HashToUInt64(lines), rows);
    }
}
