using System.Globalization;
using System.IO.Hashing;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>What every style of listing does alike for one strand: sends, lands, and tells refusals from skips.</summary>
internal sealed class StrandRun(PullContext context, Strand strand, ApiClient client, StrandRequests requests)
{
    private readonly List<LandedPage> _pieces = [];
    private readonly ProvenRows _proven = new(context.Pull, client.Signatures, context.Schemas);

    public PullContext Context => context;

    public Pull Pull => context.Pull;

    public Strand Strand => strand;

    public ApiClient Client => client;

    public StrandRequests Requests => requests;

    public PullServices Services => context.Services;

    /// <summary>Whether the first request asks for changes since the last run, by a delta token.</summary>
    public bool AsksForChanges { get; init; }

    /// <summary>The last whole page that is landed; null when there is none.</summary>
    public LandedPage? Last => context.Landing.Last(strand.Key);

    /// <summary>Why the API refuses the strand, as the job allows; null while it does not.</summary>
    public LandedSkip? Skip { get; private set; }

    /// <summary>Takes over that the API refuses the strand, from whoever asked.</summary>
    /// <returns>No answer.</returns>
    public Answer? SkipAs(LandedSkip skip)
    {
        Skip = skip;
        return null;
    }

    /// <summary>Sends a request of the strand.</summary>
    /// <param name="position">Where the strand goes on; null at its beginning.</param>
    /// <param name="goesOn">Whether it is the first request of a strand that is resumed.</param>
    /// <exception cref="StrandSkip">The API refused for a reason that the job allows.</exception>
    /// <exception cref="StrandRestart">The position is not known any more.</exception>
    public async Task<Answer> SendAsync(ApiRequest request, string? position, bool goesOn, CancellationToken cancel) =>
        await TrySendAsync(request, position, goesOn, cancel) ?? throw new StrandSkip(Skip!);

    /// <summary>
    /// Sends a request of the strand. Of many strands that are skipped, an exception each would cost more than the request.
    /// </summary>
    /// <param name="position">Where the strand goes on; null at its beginning.</param>
    /// <param name="goesOn">Whether it is the first request of a strand that is resumed.</param>
    /// <returns>Null when the API refused for a reason that the job allows: <see cref="Skip"/> has it.</returns>
    /// <exception cref="StrandRestart">The position is not known any more.</exception>
    public async Task<Answer?> TrySendAsync(ApiRequest request, string? position, bool goesOn, CancellationToken cancel)
    {
        for (var attempt = 1; ; attempt++)
        {
            if (await SendOnceAsync(request, position, goesOn, cancel) is not { } answer)
                return null;
            if (request.Streams || FailRules.Match(Pull.FailWhen, answer) is not { } rule)
                return answer;
            using (answer)
            {
                var what =
                    $"pull '{Pull.Name}'{Title} failed: the API answered with status {answer.Status}and, at {rule.At.Text}, a failure (fail-when:)";
                if (!rule.Again || attempt >= Retries.DeclaredFailure)
                    throw new RefusedException(
                        Catalogue.Refuse(
                            new Facts(Desk.Api, Trouble.NotUnderstood, answer.Status) { Words = answer.Body.Text(4000) },
                            what,
                            Quote.From(answer, Services.Redactor),
                            $"{request.Method} {ShownAddress.Of(request.Uri)}, status {answer.Status}, attempt {attempt}"));
                await WaitToRepeatAsync(request, $"a failure at {rule.At.Text}", attempt, cancel);
            }
        }
    }

    private async Task<Answer?> SendOnceAsync(ApiRequest request, string? position, bool goesOn, CancellationToken cancel)
    {
        SkipRule? rule = null;
        var (expired, ends) = (false, false);
        var wanted = request with
        {
            Expects = answer => request.Expects?.Invoke(answer) == true
                || (ends = position is not null && answer.Status == Pull.Paging.EndStatus)
                || (rule = SkipRules.Match(Pull.SkipWhen, answer)) is not null
                || (
                expired = IsExpired(answer, position, goesOn)),
        };
        var answer = await client.SendAsync(wanted, cancel);
        if (ends)
            return answer;
        if (answer.IsSuccess && !request.Streams)
            rule = SkipRules.Match(Pull.SkipWhen, answer);
        if (rule is null && !expired)
            return answer;
        using (answer)
        {
            if (rule is null)
                throw new StrandRestart(
                    context,
                    strand,
                    $"the API no longer knows the place from which pull '{Pull.Name}'{Title} continues (status {answer.Status}: {Quote.From(answer, Services.Redactor)})");
            Skip = new LandedSkip(
                answer.Status,
                rule.Because ?? $"status {answer.Status}",
                Quote.From(answer, Services.Redactor) ?? "",
                Services.Redactor.Clean($"{request.Method} {ShownAddress.Of(request.Uri)}"));
            return null;
        }
    }

    /// <summary>Lands the rows of a page, verified where they are signed.</summary>
    /// <param name="areProven">Whether an earlier run has verified them already.</param>
    /// <exception cref="PageException">A row does not fit the pull's schema.</exception>
    public LandedPage Land(
        ReadOnlySpan<byte> lines,
        int rows,
        string? next,
        long? total = null,
        bool isPiece = false,
        string? delta = null,
        Ending? ended = null,
        string? etag = null,
        string? verifiedBy = null,
        bool areProven = false)
    {
        if (rows > 0 && !areProven && !_proven.AreAsTheyCame)
            lines = _proven.Of(lines, verifiedBy);
        var mark = delta ?? (Pull.Incremental is { } incremental ? Marks.Highest(lines, incremental.By) : null);
        var page = context.Landing.Append(strand.Key, lines, rows, next, isPiece, mark, ended?.Code, total, etag);
        context.Progress.Landed(rows, total);
        _pieces.Add(page);
        if (!isPiece)
        {
            _pieces.ForEach(piece => context.HandOn(strand, piece));
            _pieces.Clear();
        }

        return page;
    }

    /// <summary>Makes sure that a window has fewer rows than the API returns at most.</summary>
    /// <param name="rows">Rows that came so far.</param>
    /// <param name="told">Rows in all, where the API tells.</param>
    /// <exception cref="WindowTooLarge">It may have more.</exception>
    public void CheckWindow(long rows, long? told)
    {
        if (Pull.Window?.AtMost is { } most && (told > most || (rows >= most && rows != told)))
            throw new WindowTooLarge();
    }

    /// <summary>Ends a window without its rows: its halves bring them.</summary>
    public void Halve()
    {
        DropPieces();
        Land([], 0, null, ended: Ending.Halved);
    }

    /// <summary>Drops the pieces of a stream that was cut short.</summary>
    public void DropPieces()
    {
        context.Landing.DropPieces(strand.Key);
        _pieces.Clear();
    }

    /// <summary>The refusal of a page that is not what the pull expects. The page is kept for inspection.</summary>
    public RefusedException Refuse(PageException error, ApiRequest request, int status, ReadOnlySpan<byte> page)
    {
        var what =
            $"page {(Last?.Page + 2 ?? 1).ToString(CultureInfo.InvariantCulture)} of pull '{Pull.Name}'{Title} is not as expected: {error.Message}";
        var kept = Keep(page);
        var refusal = Catalogue.Refuse(
            new Facts(Desk.Api, Trouble.NotUnderstood, status),
            what,
            Quote.From(page, Services.Redactor),
            $"{request.Method} {ShownAddress.Of(request.Uri)}, status {status}");
        return new RefusedException(
            kept is null ? refusal : refusal with { NextStep = $"{refusal.NextStep}; the page is kept in {kept}" }, error);
    }

    /// <summary>Waits before a page or stream is fetched again.</summary>
    public async Task WaitToRepeatAsync(ApiRequest request, string reason, int attempt, CancellationToken cancel)
    {
        var delay = Services.Backoff.After(attempt);
        Services.Budget.CheckWait(delay, "the next attempt");
        Services.Requests.Retrying(new Request(request.Method, request.Uri, []), reason, attempt, delay);
        await Waits.DelayAsync(delay, Services.Clock, cancel);
    }

    /// <summary>The strand, for messages; empty for the only one.</summary>
    public string Title => strand.Title.Length > 0 ? $" ({Services.Redactor.Clean(strand.Title)})" : "";

    private bool IsExpired(Answer answer, string? position, bool goesOn) =>
        (position is not null || AsksForChanges)
            && !context.WasRestarted(strand)
            && (answer.Status == 410 || ((goesOn || position is null) && answer.Status is 400 or 404 or 422));

    private string? Keep(ReadOnlySpan<byte> page)
    {
        var digest = XxHash64.HashToUInt64(Encoding.UTF8.GetBytes(strand.Key)).ToString("x16", CultureInfo.InvariantCulture);
        var path = Path.Combine(
            Services.OddFolder,
            $"{Pull.Name}{(strand.Key.Length > 0 ? "-" + digest : "")}-page-{(Last?.Page + 2 ?? 1).ToString(CultureInfo.InvariantCulture)}.txt");
        try
        {
            Services.Disk.CreateFolder(Services.OddFolder);
            WholeFile.Write(Services.Disk, path, Encoding.UTF8.GetBytes(Services.Redactor.Clean(Encoding.UTF8.GetString(page))));
            return path;
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            // What is told is the page; that it could not be kept as well does not matter beside it.
            return null;
        }
    }
}
