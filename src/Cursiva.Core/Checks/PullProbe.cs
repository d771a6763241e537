using System.IO.Hashing;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Checks;

/// <summary>Takes the first page of a pull, and the second where there is one: whether rows, paging and columns are where the job says.</summary>
internal sealed class PullProbe(Job job, Pull pull, SignInServices services)
{
    private const int MostRowsLookedAt = 200;

    /// <summary>Whether it can be asked at all: one GET that is made from no row, and is no stream.</summary>
    public static bool CanAsk(Job job, Pull pull) =>
        pull is { Per: null, Request.Method: "GET" } && !job.Strands.Apis.ContainsKey(pull.Api)
        && ListingStyle.Of(pull.Paging) is Pager
        && (pull.Identity ?? job.Apis[pull.Api].Identity) is var identity && (identity is null || !job.Strands.Identities.ContainsKey(identity));

    public async Task<IReadOnlyList<LiveLine>> LookAsync(ApiClients clients, CancellationToken cancel)
    {
        var lines = new List<LiveLine>();
        try
        {
            var client = await clients.OfAsync(pull, _ => null, cancel);
            var inputs = job.Inputs.ToDictionary(input => input.Name, input => input.Value, StringComparer.Ordinal);
            var requests = await StrandRequests.OpenAsync(pull, client, inputs, StrandFeed.InWindows(pull, Strand.Only).First(), pull.Incremental?.First, null, services.Secrets, cancel);
            var pager = (Pager)ListingStyle.Of(pull.Paging);
            var first = await PageAsync(client, requests, pager, pager.First, 0, 0, cancel);
            lines.Add(Line("rows", LiveVerdict.Ok, $"{Count(first.Scan.Rows)} on the first page, at {(pull.Rows.At.Text.Length > 0 ? pull.Rows.At.Text : "the top")}"));
            lines.AddRange(Columns(first));
            lines.AddRange(await OnwardsAsync(client, requests, pager, first, cancel));
        }
        catch (PageException error)
        {
            lines.Add(Line("rows", LiveVerdict.Failed, error.Message, "correct rows: or paging: of the pull"));
        }
        catch (RefusedException error)
        {
            lines.Add(LiveLine.Of("pull", pull.Name, "rows", error.Refusal));
        }

        return lines;
    }

    private async Task<IReadOnlyList<LiveLine>> OnwardsAsync(ApiClient client, StrandRequests requests, Pager pager, Seen first, CancellationToken cancel)
    {
        var signs = string.Join(", ", first.Signs.Hints.Concat(first.Signs.Totals.Where(total => total.Value > first.Scan.Rows).Select(total => $"{total.Key} is {total.Value:N0}")));
        if (first.Way.Ended is { } ended)
        {
            var misses = ended == Ending.OnePage && pull.Rows.Form != RowsForm.One;
            return misses && signs.Length > 0
                ? [Line("paging", pull.Paging.Style == PagingStyle.OnePage ? LiveVerdict.Notice : LiveVerdict.Failed, $"the listing would end after this page, and the page hints at another one: {signs}; {first.Signs.Nearest(pull.Paging.At?.Text ?? "next")}", "declare in paging: how the next page is found")]
                : [Line("paging", LiveVerdict.Ok, $"this is the only page: {ended.Words}")];
        }

        var second = await PageAsync(client, requests, pager, first.Way.Next, first.Scan.Rows, first.Scan.Rows, cancel);
        return second.Digest == first.Digest && first.Scan.Rows > 0
            ? [Line("paging", LiveVerdict.Failed, "the second page has the rows of the first one again: the API ignores what asks for it", "compare paging: with the API's description")]
            : [Line("paging", LiveVerdict.Ok, $"the second page has other rows ({Count(second.Scan.Rows)})")];
    }

    private IEnumerable<LiveLine> Columns(Seen page)
    {
        if (pull.Columns.Count == 0 || page.Rows.Count == 0)
            yield break;
        var missing = pull.Columns.Where(column => page.Rows.TrueForAll(row => JsonFind.Raw(row, column.At).IsEmpty)).Select(column => $"{column.Name} ({column.At.Text})").ToList();
        yield return missing.Count == 0
            ? Line("columns", LiveVerdict.Ok, $"every declared column is there in the first {Count(page.Rows.Count)}")
            : Line("columns", LiveVerdict.Notice, $"no row of the first {page.Rows.Count:N0} has {string.Join(", ", missing)}", "compare columns: with the rows");
    }

    private async Task<Seen> PageAsync(ApiClient client, StrandRequests requests, Pager pager, string? position, long before, int largest, CancellationToken cancel)
    {
        var request = requests.At(position);
        client.CheckWithin(request.Uri, null);
        using var answer = await client.SendAsync(position == pager.First ? request : request with { Expects = answer => answer.Status == pull.Paging.EndStatus }, cancel);
        if (PageEnvelope.IsBehindTheLast(pull.Paging, answer))
            return new Seen(default, Way.End(answer.IsSuccess ? Ending.EmptyPage : Ending.NoPage), PageSigns.None, 0, []);
        var signs = PageSigns.Of(answer, pull.Rows.At);
        using var scanner = new PageScanner(new PageShape(pull.Rows, pull.Drop, pull.Paging));
        var scan = PageEnvelope.Counted(scanner.Scan(answer.Body), pull.Paging, answer);
        var lines = scanner.Lines.ToArray();
        var rows = Encoding.UTF8.GetString(lines).Split('\n', StringSplitOptions.RemoveEmptyEntries).Take(MostRowsLookedAt).Select(Encoding.UTF8.GetBytes).ToList();
        var way = pager.Next(new PageFacts(answer, request.Uri, scan, pager.LastKey(lines), before == 0, before, largest), position);
        return new Seen(scan, way, signs, XxHash3.HashToUInt64(lines), rows);
    }

    private static string Count(int rows) => $"{rows:N0} {(rows == 1 ? "row" : "rows")}";

    private LiveLine Line(string step, LiveVerdict state, string says, string? next = null) => new("pull", pull.Name, step, state, says, next);

    private sealed record Seen(PageScan Scan, Way Way, PageSigns Signs, ulong Digest, List<byte[]> Rows);
}
