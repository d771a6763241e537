using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Checks;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Drafts;

/// <summary>
/// Finds out more of a listing whose second page is known: what it tells of its end, how large pages may be, and further rows.
/// </summary>
internal sealed class ListingFacts(
    AskedSignIn signIn, ApiClient client, SecretSources secrets, AskOnce asks, string folder, DateTimeOffset now)
{
    private const int MostPages = 5;
    private const int LargerSize = 1000;
    private const int MostSizes = 3;

    /// <summary>All that is found out.</summary>
    public async Task<DraftFacts> OfAsync(DraftFacts facts, FirstPage page, PageTrial trial, PageTrials trials, CancellationToken cancel)
    {
        var second = SampleRows.Parse(trial.SecondAnswer.Body) is { } root ? PageMember.Of(root, page.Rows.Within) : [];
        var keys = CountSearch.Keys(
            page.Members,
            second,
            trial.FirstAnswer,
            trial.SecondAnswer,
            (trial.First.Scan.Rows, trial.Second.Scan.Rows),
            trial.Pull.Paging.Counts);
        if (keys.Count == 0 && trial.Pull.Paging.Counts && await EndStatusAsync(trial.Pull, cancel) is { } status)
            keys = [status];
        trial = await WithKeysAsync(trial, keys, cancel) ?? trial;
        facts = facts with
        {
            IsProven = true,
            PagingWords = $"{trial.Pull.Paging.Words}; the second page had {trial.Second.Scan.Rows:N0} other rows",
        };
        (trial, var size) = await SizeAsync(trial, page, trials, cancel);
        facts = facts with { Pull = trial.Pull, SizeWords = size };
        return await WalkAsync(facts, trial, cancel);
    }

    private async Task<PageTrial?> WithKeysAsync(PageTrial trial, IReadOnlyList<string> keys, CancellationToken cancel)
    {
        if (keys.Count == 0)
            return null;
        var pull = trial.Pull with { PagingKeys = keys };
        try
        {
            var look = await PageTrials.OpenAsync(pull, signIn, client, secrets, asks, folder, now, cancel);
            var first = await look.FirstAsync(cancel);
            return first.Way.Next is { } next
                ? trial with
                {
                    Pull = pull,
                    Look = look,
                    First = first,
                    Second = await look.AtAsync(next, first.Scan.Rows, first.Scan.Rows, cancel),
                }
                : null;
        }
        catch (Exception error) when (error is PageException or RefusedException or JobMistakesException or RequestsSpentException)
        {
            return null;
        }
    }

    // What the API answers far behind its end.
    private async Task<string?> EndStatusAsync(DraftedPull pull, CancellationToken cancel)
    {
        try
        {
            var parameter = pull.Paging.Without is [var name]
                ? KeyValuePair.Create(name, pull.Paging.FarBehind!)
                : (KeyValuePair<string, string>?)null;
            var far = pull with
            {
                Paging = PagingGuess.OnePage with { Without = pull.Paging.Without },
                Address = parameter is null ? pull.Address with
                {
                    Path = pull.Path.Replace("{page}", pull.Paging.FarBehind!, StringComparison.Ordinal),
                } : pull.Address,
                Further = parameter is { } behind ? [.. pull.Further, behind] : pull.Further,
            };
            var look = await PageTrials.OpenAsync(far, signIn, client, secrets, asks, folder, now, cancel);
            await look.FirstAsync(cancel);
            return null;
        }
        catch (RefusedException error) when (error.Refusal.Status is >= 400 and < 500 and not (401 or 403 or 429))
        {
            return string.Create(CultureInfo.InvariantCulture, $"end-status: {error.Refusal.Status}");
        }
        catch (Exception error) when (error is PageException or RefusedException or JobMistakesException or RequestsSpentException)
        {
            return null;
        }
    }

    // How many rows the server gives at most, and whether the pages still follow each other then.
    private async Task<(PageTrial Trial, string Words)> SizeAsync(
        PageTrial trial, FirstPage page, PageTrials trials, CancellationToken cancel)
    {
        var usual = trial.First.Scan.Rows;
        if (usual >= LargerSize || trial.Pull.Body is not null)
            return (trial, "");
        var given = page.Address.Query
            .Select(pair => pair.Key)
            .Where(name => PageNames.SizeParameters.Any(known => PageMember.Plain(known) == PageMember.Plain(name)))
            .ToList();
        var told = page.Members
            .Where(member => member.Number == usual && PageNames.SizeParameters.Any(known => PageMember.Plain(known) == member.PlainName))
            .Select(
            member => member.Name);
        foreach (var name in given.Concat(told).Concat(given.Count > 0 ? [] : PageNames.SizeParameters).Distinct().Take(MostSizes))
        {
            var larger = trial.Pull with { Further = [KeyValuePair.Create(name, LargerSize.ToString(CultureInfo.InvariantCulture))] };
            try
            {
                var look = await PageTrials.OpenAsync(larger, signIn, client, secrets, asks, folder, now, cancel);
                var first = await look.FirstAsync(cancel);
                if (first.Scan.Rows <= usual)
                    continue;
                if (first.Way.Next is not { } next || first.Way.Ended is not null)
                    return (trial, $"{name}={LargerSize} gives all {first.Scan.Rows:N0} rows on one page");
                var second = await look.AtAsync(next, first.Scan.Rows, first.Scan.Rows, cancel);
                var cap = first.Scan.Rows < LargerSize
                    ? $"the server returns {first.Scan.Rows:N0} rows at most"
                    : $"the server returns {LargerSize:N0} rows at once, perhaps more";
                if (second.Scan.Rows > 0 && second.Digest != first.Digest)
                    return (
                        trial with { Pull = larger, Look = look, First = first, Second = second, SecondAnswer = asks.Latest! },
                        $"{cap}, {usual:N0} by default");
            }
            catch (Exception error) when (error is PageException or RefusedException or JobMistakesException)
            {
                // Not by this name, or not so many.
            }
            catch (RequestsSpentException)
            {
                return (trial, "");
            }
        }

        return (trial, "");
    }

    private async Task<DraftFacts> WalkAsync(DraftFacts facts, PageTrial trial, CancellationToken cancel)
    {
        List<SeenPage> pages = [trial.First, trial.Second];
        var last = trial.SecondAnswer;
        try
        {
            while (pages[^1].Way.Next is { } next && pages.Count < MostPages)
            {
                pages.Add(
                    await trial.Look.AtAsync(next, pages.Sum(page => (long)page.Scan.Rows), pages.Max(page => page.Scan.Rows), cancel));
                last = asks.Latest!;
            }
        }
        catch (Exception error) when (error is PageException or RefusedException or RequestsSpentException)
        {
            // What was seen so far does.
        }

        var ended = pages[^1].Way.Ended;
        var rows = SampleRows.Of(pages.SelectMany(page => page.Rows));
        return facts with
        {
            Rows = rows,
            Pages = pages.Count(page => page.Scan.Rows > 0),
            Ended = ended?.Words,
            Changes = ended is null ? null : Changes(last),
        };
    }

    private static string? Changes(KeptAnswer last) => SampleRows.Parse(last.Body) is not { } root ? null
        : PageMember.Of(root, []).FirstOrDefault(
            member => member.Value.ValueKind == JsonValueKind.String
                && AskedAddress.Is(member.Value.GetString()!)
                && (member.PlainName.Contains("delta", StringComparison.Ordinal)
                    || member.PlainName.Contains("changes", StringComparison.Ordinal)
                    || member.PlainName.Contains("sync", StringComparison.Ordinal)))?.At.Text;
}
