using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Submits an export once. What is about to be submitted is noted before it leaves, so that one whose answer was lost is looked for where
/// the
/// API lists it, and not submitted a second time.
/// </summary>
/// <param name="request">The request that submits it, with the submission's id where the job sends it.</param>
internal sealed class Submission(StrandRun run, ApiRequest request)
{
    private const string Mark = "?";

    private readonly ExportSteps _steps = run.Pull.Export!;

    /// <summary>The id of the submission that a strand was about to make when it was stopped; null when there was none.</summary>
    public static string? Noted(string? position) =>
        position?.StartsWith(Mark, StringComparison.Ordinal) == true ? position[Mark.Length..] : null;

    /// <summary>An id that no other submission has.</summary>
    public static string NewId() => Guid.NewGuid().ToString("n");

    /// <summary>Submits it, unless an earlier start did and the API lists it.</summary>
    /// <returns>Where it was submitted, and the answer; or the address that the list has for it, without an answer.</returns>
    /// <exception cref="RefusedException">The API refused, or the answer was lost and the API does not list the export.</exception>
    public async Task<(Answer? Answer, Uri? Found)> SendAsync(CancellationToken cancel)
    {
        if (Noted(run.Last?.Next) is not null)
        {
            if (_steps.Find is not null && await FindAsync(cancel) is { } earlier)
                return (null, earlier);
        }
        else if (run.Requests.SendsSubmission)
        {
            run.Land([], 0, Mark + run.Requests.SubmissionId);
            await run.Services.Landing.CommitAsync(cancel);
        }

        try
        {
            return (await run.SendAsync(request, null, goesOn: false, cancel), null);
        }
        catch (RefusedException error) when (error.Refusal.MayHaveArrived && _steps.Find is not null)
        {
            return (null, await FindLostAsync(error, cancel));
        }
    }

    // A list may lag behind what was submitted a moment ago.
    private async Task<Uri> FindLostAsync(RefusedException lost, CancellationToken cancel)
    {
        for (var attempt = 1; attempt < Retries.LostSubmission; attempt++)
        {
            await run.WaitToRepeatAsync(request, "its answer was lost; looking whether the API lists the export", attempt, cancel);
            if (await FindAsync(cancel) is { } found)
                return found;
        }

        throw new RefusedException(lost.Refusal with
        {
            Cause = "the submission may have arrived although its answer did not, and the API does not list it yet; it was not repeated",
            NextStep = "start the job again: it looks for the export once more, and submits it if the API still does not list it",
        }, lost);
    }

    private async Task<Uri?> FindAsync(CancellationToken cancel)
    {
        var find = _steps.Find!;
        var asked = new ApiRequest(HttpMethod.Get, run.Requests.AddressOf(find.Path));
        using var answer = await run.Client.SendAsync(asked, cancel);
        var found = Matching(answer);
        if (found.Count > 1)
            throw Odd(asked, answer, $"{found.Count} exports match where: of export: find:, but one was submitted");
        if (found.Count == 0)
            return null;
        if (found[0] is not { } text || !Uri.TryCreate(asked.Uri, text, out var address))
            throw Odd(asked, answer, $"the matching export has no address at link: {find.Link}");
        run.Client.CheckWithin(address, asked.Uri);
        return address;
    }

    // The addresses of the exports that fit; null for one without an address.
    private List<string?> Matching(Answer answer)
    {
        var find = _steps.Find!;
        try
        {
            using var document = JsonDocument.Parse(answer.Body.Content.ToArray());
            return find.Rows.Find(document.RootElement) is not { ValueKind: JsonValueKind.Array } rows
                ? throw Odd(
                    new ApiRequest(HttpMethod.Get, run.Requests.First),
                    answer,
                    $"there is no array at rows: {find.Rows} in the list of export: find:")
                : [.. rows.EnumerateArray().Where(Fits).Select(
                    row => find.Link.Find(row) is { ValueKind: JsonValueKind.String } link ? link.GetString() : null)];
        }
        catch (JsonException)
        {
            throw Odd(new ApiRequest(HttpMethod.Get, run.Requests.First), answer, "the list of export: find: is not JSON");
        }
    }

    private bool Fits(JsonElement row) =>
        _steps.Find!.Where.All(
            pair => pair.Key.Find(row) is { ValueKind: JsonValueKind.String or JsonValueKind.Number } value
                && value.ToString() == pair.Value.Fill(name => run.Requests.Value(name) ?? ""));

    private RefusedException Odd(ApiRequest asked, Answer answer, string what) =>
        new(
            Catalogue.Refuse(
                new Facts(Desk.Api, Trouble.NotUnderstood, answer.Status) { Words = answer.Body.Text(2000) },
                $"pull '{run.Pull.Name}'{run.Title}: {what}",
                Quote.From(answer, run.Services.Redactor),
                $"GET {ShownAddress.Of(asked.Uri)}, status {answer.Status}"));
}
