using System.Text;
using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Writes;

/// <summary>Looks for a thing: to the end of the list, and to the letter. Two that fit are nobody's.</summary>
internal sealed class Look(ApiClient client, Redactor redactor)
{
    // A look is for one thing; whoever has more pages than this searches without narrowing.
    private const int MostPages = 1000;

    /// <summary>Finds the thing.</summary>
    /// <returns>The thing as JSON, and the header ETag of the answer that is the thing; null where there is none.</returns>
    /// <exception cref="ItemRefusedException">Several fit, or none does where one must, or the answer is not what the step
    /// expects.</exception>
    /// <exception cref="RefusedException">The API refused or failed.</exception>
    public async Task<(byte[] Thing, string? Etag)?> FindAsync(
        WriteStep step, ApiRequest request, ItemValues values, CancellationToken cancel)
    {
        var found = step.Rows is null ? await ReadAsync(step, request, cancel) : await SearchAsync(step, request, values, cancel);
        if (found is null && !step.MayFindNothing)
            throw new ItemRefusedException($"step '{step.Name}' found nothing{Wanted(step, values)}");
        return found;
    }

    private async Task<(byte[] Thing, string? Etag)?> ReadAsync(WriteStep step, ApiRequest request, CancellationToken cancel)
    {
        using var answer = await client.SendAsync(
            request with { Expects = answer => answer.Status is 404 or 410 && step.MayFindNothing }, cancel);
        return answer.IsSuccess ? (answer.Body.Content.ToArray(), answer.Header("ETag")) : null;
    }

    private async Task<(byte[] Thing, string? Etag)?> SearchAsync(
        WriteStep step, ApiRequest request, ItemValues values, CancellationToken cancel)
    {
        var where = step.Where.Select(pair => KeyValuePair.Create(pair.Key, pair.Value.Fill(values.Needed))).ToList();
        var isOnePage = step.Paging.Style.HasOnePage;
        var pager = ListingStyle.Of(step.Paging) as Pager;
        var asked = new AskedPage(HttpMethod.Get, _ => request.Uri, request.Headers, null);
        using var scanner = new PageScanner(new PageShape(new RowSource(RowsForm.Array, step.Rows!), [], step.Paging));
        var position = pager?.First;
        var fitting = new List<byte[]>();
        long rows = 0;
        var largest = 0;
        for (var page = 0; page < MostPages; page++)
        {
            var uri = position is null || pager is null ? request.Uri : pager.Ask(asked, position).Address;
            client.CheckWithin(uri, request.Uri);
            using var answer = await client.SendAsync(
                request with { Uri = uri, Expects = answer => answer.Status == step.Paging.EndStatus }, cancel);
            if (!answer.IsSuccess)
                return One(step, fitting, where);

            // A scan rewrites the page.
            var content = answer.Body.Content.ToArray();
            var hints = isOnePage ? PageSigns.Of(answer, step.Rows!).Hints : [];
            var scan = Scan(scanner, answer, step);
            fitting.AddRange(Fitting(content, step, where));
            if (fitting.Count > 1)
                return One(step, fitting, where);
            if (isOnePage || pager is null)
            {
                if (hints.Count > 0)
                    throw new ItemRefusedException(
                        $"step '{step.Name}' looked at one page, which has {hints[0]}; declare with paging: how the list continues");
                return One(step, fitting, where);
            }

            if (pager.Next(new PageFacts(answer, uri, scan, null, page == 0, rows, largest), position).Next is not { } next)
                return One(step, fitting, where);
            (position, rows, largest) = (next, rows + Math.Max(scan.Rows, 0), Math.Max(largest, scan.Rows));
        }

        throw new ItemRefusedException($"step '{step.Name}' looked at {MostPages:N0} pages, and the list continues; narrow it with query:");
    }

    private PageScan Scan(PageScanner scanner, Answer answer, WriteStep step)
    {
        try
        {
            return scanner.Scan(answer.Body);
        }
        catch (PageException error)
        {
            throw new ItemRefusedException(
                $"the answer to step '{step.Name}' does not match rows: and paging:, {error.Message}{(Quote.From(answer, redactor) is { } quote ? $" ({quote})" : "")}");
        }
    }

    private static List<byte[]> Fitting(byte[] content, WriteStep step, List<KeyValuePair<JsonPointer, string>> where)
    {
        using var document = JsonDocument.Parse(content);
        return step.Rows!.Find(document.RootElement) is { ValueKind: JsonValueKind.Array } rows
            ? [.. rows.EnumerateArray()
                .Where(
                    row => where.TrueForAll(
                        pair => pair.Key.Find(row) is { ValueKind: JsonValueKind.String or JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False } value && value.ToString() is var text && (value.ValueKind is JsonValueKind.True or JsonValueKind.False ? text.ToLowerInvariant() : value.ValueKind == JsonValueKind.Number ? value.GetRawText() : text) == pair.Value))
                .Select(row => Encoding.UTF8.GetBytes(row.GetRawText()))]
            : throw new ItemRefusedException($"there is nothing at rows: {step.Rows} in the answer to step '{step.Name}'");
    }

    private static (byte[] Thing, string? Etag)? One(
        WriteStep step, List<byte[]> fitting, List<KeyValuePair<JsonPointer, string>> where) => fitting.Count switch
        {
            0 => null,
            1 => (fitting[0], null),
            _ => throw new ItemRefusedException($"step '{step.Name}' found several{Wanted(where)}, so it is unclear which one to use"),
        };

    private static string Wanted(WriteStep step, ItemValues values) =>
        Wanted([.. step.Where.Select(pair => KeyValuePair.Create(pair.Key, pair.Value.Fill(name => values.Text(name) ?? "")))]);

    private static string Wanted(List<KeyValuePair<JsonPointer, string>> where) =>
        where.Count == 0 ? "" : $" with {string.Join(" and ", where.Select(pair => $"{pair.Key.Text} '{OneLine.Of(pair.Value)}'"))}";
}
