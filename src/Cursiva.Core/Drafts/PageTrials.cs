using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Checks;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Drafts;

/// <summary>Finds out by asking which way of paging leads from the first page to another one.</summary>
/// <param name="pageOf">The rows of the first page, as they land.</param>
internal sealed class PageTrials(
    AskedSignIn signIn, ApiClient client, SecretSources secrets, AskOnce asks, SeenPage pageOf, string folder, DateTimeOffset now)
{
    private const int MostRows = 20_000;

    private readonly HashSet<string> _firstRows = [.. pageOf.Rows.Select(Encoding.UTF8.GetString)];

    /// <summary>Opens a pull for single pages.</summary>
    /// <exception cref="JobMistakesException">The pull makes no sense.</exception>
    public static async Task<PageLook> OpenAsync(
        DraftedPull drafted,
        AskedSignIn signIn,
        ApiClient client,
        SecretSources secrets,
        AskOnce asks,
        string folder,
        DateTimeOffset now,
        CancellationToken cancel)
    {
        var pull = AskedJob.Read(drafted.TrialText(signIn), folder, now).Pulls[0];
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
        return new PageLook(pull, requests, asks.SendAsync, MostRows);
    }

    /// <summary>The first way that leads to other rows; null where none does.</summary>
    /// <param name="of">A pull with one of the ways.</param>
    public async Task<PageTrial?> FindAsync(IEnumerable<PagingGuess> guesses, Func<PagingGuess, DraftedPull> of, CancellationToken cancel)
    {
        var ignored = new HashSet<string>(StringComparer.Ordinal);
        foreach (var guess in guesses)
        {
            if (asks.IsSpent)
                return null;
            if (guess.Look is { } look && ignored.Contains(look.Key))
                continue;
            try
            {
                if (guess.Look is { } parameter
                    && !await LeadsOnAsync(of(PagingGuess.OnePage with { Without = guess.Without }), parameter, ignored, cancel))
                    continue;
                if (await TryAsync(of(guess), cancel) is { } trial)
                    return trial;
            }
            catch (Exception error) when (error is PageException or RefusedException or JobMistakesException)
            {
                // That way leads nowhere; another one may.
            }
            catch (RequestsSpentException)
            {
                return null;
            }
        }

        return null;
    }

    // With one request: whether the parameter changes what comes at all.
    private async Task<bool> LeadsOnAsync(
        DraftedPull bare, KeyValuePair<string, string> parameter, HashSet<string> ignored, CancellationToken cancel)
    {
        var look = await OpenAsync(bare with { Further = [parameter] }, signIn, client, secrets, asks, folder, now, cancel);
        var seen = await look.FirstAsync(cancel);
        if (seen.Digest == pageOf.Digest)
            ignored.Add(parameter.Key);
        return seen.Scan.Rows > 0 && seen.Digest != pageOf.Digest;
    }

    private async Task<PageTrial?> TryAsync(DraftedPull drafted, CancellationToken cancel)
    {
        var look = await OpenAsync(drafted, signIn, client, secrets, asks, folder, now, cancel);
        var first = await look.FirstAsync(cancel);
        var firstAnswer = asks.Latest!;
        if (first.Digest != pageOf.Digest || first.Way.Next is not { } position)
            return null;
        var second = await look.AtAsync(position, first.Scan.Rows, first.Scan.Rows, cancel);
        return second.Scan.Rows > 0 && !second.Rows.Any(row => _firstRows.Contains(Encoding.UTF8.GetString(row)))
            ? new PageTrial(drafted, look, first, second, firstAnswer, asks.Latest!)
            : null;
    }
}
