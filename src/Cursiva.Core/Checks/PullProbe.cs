using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Checks;

/// <summary>
/// Takes the first page of a pull, and the second where there is one: whether rows, paging and columns are where the job says.
/// </summary>
internal sealed class PullProbe(Job job, Pull pull, SignInServices services)
{
    private const int MostRowsLookedAt = 200;

    /// <summary>Whether it can be asked at all: one GET that is made from no row, and is not a stream.</summary>
    public static bool CanAsk(Job job, Pull pull) =>
        pull is { Per: null, Request.Method: "GET" } && !job.Strands.Apis.ContainsKey(pull.Api)
        && ListingStyle.Of(pull.Paging) is Pager
        && (pull.Identity ?? job.Apis[pull.Api].Identity) is var identity
            && (identity is null || !job.Strands.Identities.ContainsKey(identity));

    public async Task<IReadOnlyList<LiveLine>> LookAsync(ApiClients clients, CancellationToken cancel)
    {
        var lines = new List<LiveLine>();
        try
        {
            var client = await clients.OfAsync(pull, _ => null, cancel);
            var inputs = job.Inputs.ToDictionary(input => input.Name, input => input.Value, StringComparer.Ordinal);
            var requests = await StrandRequests.OpenAsync(
                pull,
                client,
                inputs,
                StrandFeed.InWindows(pull, Strand.Only).First(),
                pull.Incremental?.First,
                null,
                services.Secrets,
                new DocumentSchemas(services.Folder),
                cancel);
            var look = new PageLook(pull, requests, client.SendAsync, MostRowsLookedAt);
            var first = await look.FirstAsync(cancel);
            lines.Add(
                Line(
                    "rows",
                    LiveVerdict.Ok,
                    $"{Count(first.Scan.Rows)} on the first page, at {(pull.Rows.At.Text.Length > 0 ? pull.Rows.At.Text : "the top")}"));
            first = Proven(first, client, lines);
            lines.AddRange(Columns(first));
            lines.AddRange(await OnwardsAsync(look, first, cancel));
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

    // The rows as they would land: verified where they are signed, and compared with the pull's schema.
    private SeenPage Proven(SeenPage first, ApiClient client, List<LiveLine> lines)
    {
        var proven = new ProvenRows(pull, client.Signatures, new DocumentSchemas(job.Folder));
        if (proven.AreAsTheyCame || first.Rows.Count == 0)
            return first;
        byte[] landed = [.. proven.Of(first.Rows.SelectMany(row => row.Append((byte)'\n')).ToArray(), null)];
        if (client.Signatures?.Rows is { } check)
            lines.Add(
                Line(
                    "signature",
                    LiveVerdict.Ok,
                    $"{Count(first.Rows.Count)} verified under {check.Key}{(check.MayBeUnverified ? ", or reported and kept" : "")}"));
        if (pull.Schema is { } schema)
            lines.Add(Line("schema", LiveVerdict.Ok, $"{Count(first.Rows.Count)} fit {schema}"));
        return first with
        {
            Rows = [.. Encoding.UTF8.GetString(landed).Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(Encoding.UTF8.GetBytes)],
        };
    }

    private async Task<IReadOnlyList<LiveLine>> OnwardsAsync(PageLook look, SeenPage first, CancellationToken cancel)
    {
        var signs = string.Join(
            ", ",
            first.Signs.Hints.Concat(
                first.Signs.Totals.Where(total => total.Value > first.Scan.Rows).Select(total => $"{total.Key} is {total.Value:N0}")));
        if (first.Way.Ended is { } ended)
        {
            var misses = ended == Ending.OnePage && pull.Rows.Form != RowsForm.One;
            return misses && signs.Length > 0
                ? [Line(
                    "paging",
                    pull.Paging.Style.HasOnePage ? LiveVerdict.Notice : LiveVerdict.Failed,
                    $"the listing would end after this page, and the page hints at another one: {signs}; {first.Signs.Nearest(pull.Paging.At?.Text ?? "next")}",
                    "declare in paging: how to find the next page")]
                : [Line("paging", LiveVerdict.Ok, $"this is the only page: {ended.Words}")];
        }

        var second = await look.AtAsync(first.Way.Next, first.Scan.Rows, first.Scan.Rows, cancel);
        return second.Digest == first.Digest && first.Scan.Rows > 0
            ? [Line(
                "paging",
                LiveVerdict.Failed,
                "the second page has the rows of the first one again: the API ignores the request for it",
                "compare paging: with the API's documentation")]
            : [Line("paging", LiveVerdict.Ok, $"the second page has other rows ({Count(second.Scan.Rows)})")];
    }

    private IEnumerable<LiveLine> Columns(SeenPage page)
    {
        if (pull.Columns.Count == 0 || page.Rows.Count == 0)
            yield break;
        var missing = pull.Columns
            .Where(column => page.Rows.All(row => JsonFind.Raw(row, column.At).IsEmpty))
            .Select(column => $"{column.Name} ({column.At.Text})")
            .ToList();
        yield return missing.Count == 0
            ? Line("columns", LiveVerdict.Ok, $"every declared column exists in the first {Count(page.Rows.Count)}")
            : Line(
                "columns",
                LiveVerdict.Notice,
                $"no row of the first {page.Rows.Count:N0} has {string.Join(", ", missing)}",
                "compare columns: with the rows");
    }

    private static string Count(int rows) => $"{rows:N0} {(rows == 1 ? "row" : "rows")}";

    private LiveLine Line(string step, LiveVerdict state, string says, string? next = null) =>
        new("pull", pull.Name, step, state, says, next);
}
