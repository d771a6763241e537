using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Checks;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Drafts;

/// <summary>Drafts a job from a listing: asks for its first page, and by what that shows for another one, just as a run would.</summary>
/// <param name="order">What is to be drafted.</param>
/// <param name="client">The listing's API; it may answer from a recording.</param>
/// <param name="folder">Where relative paths start.</param>
public sealed class Drafting(DraftOrder order, ApiClient client, SecretSources secrets, string folder, TimeProvider clock)
{
    private const int MostRowsPlaces = 4;

    private readonly AskOnce _asks = new(client.SendAsync, order.MostRequests);
    private readonly DateTimeOffset _now = clock.GetUtcNow();

    /// <summary>Drafts the job.</summary>
    /// <exception cref="RefusedException">The API refused the first request, or its answer has no rows that a job could take.</exception>
    public async Task<Drafted> DraftAsync(CancellationToken cancel)
    {
        order.Address.CheckValues(order.Body);
        var first = await FirstAsync(cancel);
        var facts = new StreamSearch(order).Find(first) ?? await ListingAsync(first, cancel);
        facts = facts with { Limits = ToldLimits.In(first.Headers), Remarks = order.Remarks };
        var text = new DraftText(facts, order.SignIn, order.Version, _now);
        var advice = new Advice(order.File, null);
        var job = advice.Of(text.Write());
        AskedJob.Read(job, folder, _now);
        return new Drafted(
            job, order.Address.Name, [.. Proofs(facts, text).Select(advice.Of)], [.. Open(facts)], order.IsRecorded ? 0 : _asks.Asked);
    }

    private static IEnumerable<string> Proofs(DraftFacts facts, DraftText text)
    {
        yield return $"rows: {facts.RowsWords}";
        if (facts.IsProven)
            yield return $"paging: {facts.Pull.PagingText}; {facts.PagingWords}";
        if (facts.Ended is { } ended)
            yield return $"end: {facts.Rows.Count:N0} rows on {facts.Pages:N0} pages, and {ended}";
        if (facts.SizeWords.Length > 0)
            yield return $"size: {facts.SizeWords}";
        if (text.Key is { } key)
            yield return $"key: {key.At.Text} is different in all {facts.Rows.Count:N0} rows seen";
        if (facts.Limits is { } limits)
            yield return $"limits: {limits}";
    }

    private static IEnumerable<string> Open(DraftFacts facts)
    {
        if (!facts.IsProven)
            yield return $"paging: {facts.PagingWords}";
        if (facts.Rows.Count == 0)
            yield return "columns: no row was seen";
        if (facts.Limits is null)
            yield return "limits: no answer showed any; see the API's documentation";
    }

    private async Task<KeptAnswer> FirstAsync(CancellationToken cancel)
    {
        var pull = AskedJob.Read(Pulled("\"\"", PagingGuess.OnePage).TrialText(order.AsksAs), folder, _now).Pulls[0];
        var requests = await StrandRequests.OpenAsync(
            pull,
            client,
            new Dictionary<string,
            string>(),
            StrandFeed.InWindows(pull, Strand.Only).First(),
            null,
            null,
            secrets,
            new DocumentSchemas(folder),
            cancel);
        using var answer = await _asks.SendAsync(
            requests.At(null) with
            {
                Accept = "application/json, application/x-ndjson;q=0.9, application/json-seq;q=0.9, text/csv;q=0.8, */*;q=0.5",
            },
            cancel);
        return _asks.Latest!;
    }

    private async Task<DraftFacts> ListingAsync(KeptAnswer first, CancellationToken cancel)
    {
        if (first.Status == 204 || first.Body.Length == 0)
            throw NoRows("the answer is empty", "request a period or filter that has rows: add it to the address");
        if (SampleRows.Parse(Utf8(first)) is not { } root)
            throw NoRows(
                $"the answer is neither JSON, JSON lines nor CSV{(order.IsRecorded || first.ContentType.Length == 0 ? "" : $", though it is called {first.ContentType}")}",
                order.IsRecorded
                    ? "save an unchanged answer of the API, for instance with cursiva call URL --to FILE"
                    : $"look at it: cursiva call {ShellWord.Of(Http.ShownAddress.Of(first.Address))}; many APIs need a header, such as --header Accept=application/json");
        foreach (var place in RowsSearch.In(root).Take(MostRowsPlaces))
        {
            var bare = Pulled(place.Yaml, PagingGuess.OnePage);
            try
            {
                var look = await PageTrials.OpenAsync(bare, order.AsksAs, client, secrets, _asks, folder, _now, cancel);
                return await PagedAsync(bare, place, root, first, await look.FirstAsync(cancel), cancel);
            }
            catch (Exception error) when (error is PageException or JobMistakesException)
            {
                // The next place may do.
            }
        }

        throw NoRows(
            "the answer has no rows",
            "a job needs an object, or an array of objects or values; look at the answer: cursiva call URL --to FILE, then cursiva shape FILE");
    }

    private async Task<DraftFacts> PagedAsync(
        DraftedPull bare, RowsPlace place, JsonElement root, KeptAnswer answer, SeenPage seen, CancellationToken cancel)
    {
        var rows = SampleRows.Of(seen.Rows);
        var page = new FirstPage(
            order.Address,
            place with { Rows = seen.Scan.Rows },
            PageMember.Of(root, place.Within),
            answer.Headers,
            rows,
            order.Body is null ? null : SampleRows.Parse(System.Text.Encoding.UTF8.GetBytes(order.Body)));
        var guesses = new PagingGuesses(page);
        var trials = new PageTrials(order.AsksAs, client, secrets, _asks, seen, folder, _now);
        var facts = new DraftFacts(bare, place.Words, rows);
        if (rows.Count == 0)
            return facts with
            {
                PagingWords = "the listing was empty",
                Pull = bare with { Paging = guesses.OfOnlyPage.FirstOrDefault() ?? PagingGuess.OnePage },
            };
        var trial = await trials.FindAsync(guesses.Hinted, guess => bare with { Paging = guess }, cancel);
        if (trial is null && guesses.LooksCut)
            trial = await trials.FindAsync(
                guesses.Described(order.Parameters).Concat(guesses.Blind), guess => bare with { Paging = guess }, cancel);
        if (trial is not null)
            return await new ListingFacts(order.AsksAs, client, secrets, _asks, folder, _now).OfAsync(facts, page, trial, trials, cancel);
        return OnePage(facts, guesses, seen, CountSearch.Keys(page.Members, page.Members, answer, answer, (rows.Count, 0), counts: false));
    }

    private DraftFacts OnePage(DraftFacts facts, PagingGuesses guesses, SeenPage seen, IReadOnlyList<string> counts)
    {
        if (order.IsRecorded && guesses.Hinted.FirstOrDefault() is { } hinted)
            return facts with
            {
                Pull = facts.Pull with { Paging = hinted, PagingKeys = counts },
                PagingWords = $"{hinted.Words}; the recording has no second page to confirm it: cursiva check JOB --live does",
            };
        if (seen.Signs.Hints.Count > 0 || guesses.LooksCut)
        {
            var signs = string.Join(
                ", ",
                seen.Signs.Hints
                    .Concat(
                        seen.Signs.Totals.Where(total => total.Value > facts.Rows.Count).Select(
                            total => $"{total.Key} is {total.Value:N0}"))
                    .DefaultIfEmpty(
                    $"{facts.Rows.Count:N0} rows look like a full page"));
            return facts with
            {
                PagingWords =
                    $"more may follow ({signs}), and no usual style led there in {_asks.Asked} requests; see the API's documentation, and declare paging: before you trust a run",
            };
        }

        var only = guesses.OfOnlyPage.FirstOrDefault();
        return only is null
            ? facts with { PagingWords = $"nothing hints at another page{Told(seen)}", IsProven = Told(seen).Length > 0 }
            : facts with
            {
                Pull = facts.Pull with { Paging = only },
                PagingWords = $"{only.Words}; the listing fits on one page today{Told(seen)}",
                IsProven = Told(seen).Length > 0,
            };
    }

    private static string Told(SeenPage seen) =>
        seen.Signs.Totals.FirstOrDefault(total => total.Value == seen.Scan.Rows && seen.Scan.Rows > 0) is { Key: { } place }
            ? $", and {place} is the {seen.Scan.Rows:N0} rows that came"
            : "";

    private DraftedPull Pulled(string rows, PagingGuess paging) => new(order.Address, rows, paging) { Body = order.Body };

    // JSON in another encoding is read as a run reads it.
    private static ReadOnlyMemory<byte> Utf8(KeptAnswer answer)
    {
        using var again = answer.Again();
        PageWords.SkipByteOrderMark(again.Body);
        return again.Body.Content.ToArray();
    }

    private static RefusedException NoRows(string what, string next) =>
        new(new Refusal(Outcome.ApiFailed, $"no job can be drafted: {what}") { NextStep = next });
}
