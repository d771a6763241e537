using System.Globalization;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Submits an export, waits until it is done, and downloads its parts. What was submitted is noted before anything else, so that a
/// resumed run asks for that export and submits no other.
/// </summary>
internal sealed class ExportedListing(StrandRun run)
{
    private readonly ExportSteps _steps = run.Pull.Export!;

    // Rows that are answered themselves may be many: they are not held in memory.
    private bool AnswersRows => _steps is { IsWhole: true, State: null, Link.Segments.Count: 0 };

    /// <summary>Lands every part that is still missing.</summary>
    /// <exception cref="RefusedException">The API refused, the export failed, or a part is not what the pull expects.</exception>
    public async Task RunAsync(CancellationToken cancel)
    {
        var last = run.Last;
        var isEarlier = last?.Next is { } next && Submission.Noted(next) is null;
        var (part, address) = isEarlier ? Parse(last!.Next!) : (0, await SubmitAsync(cancel));
        var parts = await PollAsync(address, isEarlier, cancel);
        if (parts.Count == 0)
            run.Land([], 0, null, ended: Ending.Parts);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        await using var ahead = new PartsAhead(run, [.. parts.Skip(part).Select(one => one.Address)], stop.Token);
        try
        {
            for (; part < parts.Count; part++)
                await LandPartAsync(
                    parts[part], ahead.Next(), address, part + 1 < parts.Count ? Position(part + 1, address) : null, cancel);
        }
        finally
        {
            await stop.CancelAsync();
        }
    }

    /// <summary>What asks for a part.</summary>
    public static ApiRequest RequestOf(Uri part) => new(HttpMethod.Get, part) { Accept = "*/*", Streams = true, Verbatim = true };

    private async Task<Uri> SubmitAsync(CancellationToken cancel)
    {
        var request = run.Requests.At(null) with { Once = true, Expects = LeadsElsewhere };
        var (taken, found) = await new Submission(run, request).SendAsync(cancel);
        using var answer = taken;
        if (answer is null)
            return await NotedAsync(found!, cancel);
        var text = _steps.PollAt is { } at && answer.IsSuccess ? Read(answer, at) : answer.Headers.Location?.OriginalString;
        if (text is null || !Uri.TryCreate(request.Uri, text, out var address))
            throw Odd(
                request.Uri,
                answer,
                _steps.PollAt is null
                    ? "the answer to the submission has no Location header"
                    : $"the answer to the submission has no address at poll-at: {_steps.PollAt}");
        run.Client.CheckWithin(address, request.Uri);
        await NotedAsync(address, cancel);
        if (RetryAfter.Read(answer.Headers, run.Services.Clock.GetUtcNow()) is { } wait)
            await WaitAsync($"the export of pull '{run.Pull.Name}'", wait, cancel);
        return address;
    }

    private async Task<Uri> NotedAsync(Uri address, CancellationToken cancel)
    {
        run.Land([], 0, Position(0, address));
        await run.Services.Landing.CommitAsync(cancel);
        return address;
    }

    private async Task<List<ExportPart>> PollAsync(Uri address, bool isEarlier, CancellationToken cancel)
    {
        var goesOn = isEarlier;
        while (true)
        {
            var request = new ApiRequest(HttpMethod.Get, address)
            {
                Expects = LeadsElsewhere,
                Streams = AnswersRows,
                Verbatim = AnswersRows,
                Accept = AnswersRows ? "*/*" : "application/json",
            };
            using var answer = await run.SendAsync(request, address.AbsoluteUri, goesOn, cancel);
            goesOn = false;
            if (LeadsElsewhere(answer))
                return await ElsewhereAsync(address, answer, cancel);
            var state = _steps.State is { } at ? Read(answer, at) : null;
            if (state is not null && _steps.Failed.Contains(state))
            {
                // One that an earlier start had submitted will not come to life again.
                if (isEarlier && !run.Context.WasRestarted(run.Strand))
                    throw new StrandRestart(
                        run.Context,
                        run.Strand,
                        $"the export of pull '{run.Pull.Name}'{run.Title} that was submitted before ended with the state '{state}', and is submitted again");
                throw Odd(address, answer, $"the export ended with the state '{state}'; the next start submits it again");
            }

            if (_steps.State is null ? answer.Status != 202 : state is not null && _steps.Done.Contains(state))
                return _steps.IsWhole ? [new ExportPart(AnswersRows ? address : Linked(address, answer))] : Parts(address, answer);

            var wait = RetryAfter.Read(answer.Headers, run.Services.Clock.GetUtcNow()) ?? _steps.Every;
            await WaitAsync($"the export of pull '{run.Pull.Name}'{(state is null ? "" : $" (it is '{state}')")}", wait, cancel);
        }
    }

    private static bool LeadsElsewhere(Answer answer) => answer.Status == 303;

    // See Other (RFC 9110 section 15.4.4): the export is done, and this is where its result is.
    private async Task<List<ExportPart>> ElsewhereAsync(Uri address, Answer answer, CancellationToken cancel)
    {
        if (answer.Headers.Location is not { } location || !Uri.TryCreate(address, location.OriginalString, out var result))
            throw Odd(address, answer, "the export is done, but the answer with status 303 has no Location header");
        run.Client.CheckWithin(result, address);
        if (_steps.IsWhole)
            return [new ExportPart(result)];
        using var list = await run.SendAsync(new ApiRequest(HttpMethod.Get, result), address.AbsoluteUri, goesOn: false, cancel);
        return Parts(result, list);
    }

    private Uri Linked(Uri address, Answer answer)
    {
        if (Read(answer, _steps.Link) is not { } link || !Uri.TryCreate(address, link, out var uri))
            throw Odd(address, answer, $"the export is done, but there is no address at link: {_steps.Link}");
        run.Client.CheckWithin(uri, address);
        return uri;
    }

    private async Task WaitAsync(string reason, TimeSpan wait, CancellationToken cancel)
    {
        run.Client.CheckPause(wait);
        run.Services.Budget.CheckWait(wait, reason);
        run.Services.Requests.Waiting(reason, wait);
        await Waits.DelayAsync(wait, run.Services.Clock, cancel);
        run.Services.Requests.Waited(wait);
    }

    private List<ExportPart> Parts(Uri address, Answer answer)
    {
        var parts = new List<ExportPart>();
        try
        {
            var array = JsonFind.Raw(answer.Body.Content, _steps.Parts);
            if (array.IsEmpty || array[0] is not ((byte)'[' or (byte)'n'))
                throw Odd(address, answer, $"the export is done, but there is no array at files: {_steps.Parts}");
            using var document = System.Text.Json.JsonDocument.Parse(array.ToArray());
            foreach (var part in document.RootElement.ValueKind == System.Text.Json.JsonValueKind.Array
                ? document.RootElement.EnumerateArray().ToList()
                : [])
            {
                if (_steps.Link.Find(part) is not { ValueKind: System.Text.Json.JsonValueKind.String } link
                    || !Uri.TryCreate(address, link.GetString(), out var uri))
                    throw Odd(address, answer, $"file {parts.Count + 1} of the export has no address at link: {_steps.Link}");
                run.Client.CheckWithin(uri, address);
                parts.Add(
                    new ExportPart(uri, Number(part, _steps.PartRows), Number(part, _steps.PartBytes), Told(part, _steps.PartDigest)));
            }
        }
        catch (System.Text.Json.JsonException)
        {
            throw Odd(address, answer, "the answer is not JSON");
        }

        return parts;
    }

    private async Task LandPartAsync(ExportPart part, Task<Answer?>? fetched, Uri address, string? next, CancellationToken cancel)
    {
        var request = RequestOf(part.Address);
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                using var answer = fetched is not null && attempt == 1
                    ? await fetched ?? throw new StrandSkip(run.Skip!)
                    : await run.SendAsync(request, address.AbsoluteUri, goesOn: false, cancel);
                using var packed = new MeasuredStream(
                    Packing.Unpack(answer.Stream!, answer.ContentHeaders?.ContentEncoding ?? (IEnumerable<string>)[]));
                using var stream = new MeasuredStream(
                    new BoundedStream(await Gunzip.IfPackedAsync(packed, cancel), run.Client.LargestFile, cancel));
                var end = new StreamEnd(next, Ending.Parts)
                {
                    Check = async rows =>
                    {
                        await packed.CopyToAsync(Stream.Null, cancel);
                        part.Check(rows, packed, stream);
                    },
                };
                if (_steps.IsCsv)
                    await CsvListing.LandAsync(run, stream, request, end, cancel);
                else
                    await StreamedListing.LandAsync(run, stream, StreamForm.Lines, request, end, cancel);
                return;
            }
            catch (Exception error) when (error is TransportException or InvalidDataException)
            {
                run.DropPieces();
                if (attempt >= Retries.BrokenStream)
                    throw new RefusedException(
                        Catalogue.Refuse(
                            new Facts(Desk.Api, Trouble.CutOff),
                            $"a file of the export of pull '{run.Pull.Name}' is incomplete: {error.Message}",
                            null,
                            $"GET {ShownAddress.Of(part.Address)}"),
                        error);
                await run.WaitToRepeatAsync(request, error.Message, attempt, cancel);
            }
        }
    }

    private string? Told(System.Text.Json.JsonElement part, JsonPointer? at)
    {
        if (at is null)
            return null;
        return at.Find(part) is { ValueKind: System.Text.Json.JsonValueKind.String or System.Text.Json.JsonValueKind.Number } told ? told.ToString()
            : throw new RefusedException(
                Catalogue.Refuse(
                    new Facts(Desk.Api, Trouble.NotUnderstood),
                    $"a file of the export of pull '{run.Pull.Name}'{run.Title} lacks what export: declares: there is nothing at {at}",
                    null,
                    null));
    }

    private long? Number(System.Text.Json.JsonElement part, JsonPointer? at) =>
        long.TryParse(Told(part, at), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private static string? Read(Answer answer, JsonPointer at)
    {
        try
        {
            return JsonFind.Text(answer.Body.Content, at);
        }
        catch (System.Text.Json.JsonException)
        {
            return null;
        }
    }

    private RefusedException Odd(Uri address, Answer answer, string what) =>
        new(
            Catalogue.Refuse(
                new Facts(Desk.Api, Trouble.NotUnderstood, answer.Status) { Words = answer.Body.Text(2000) },
                $"pull '{run.Pull.Name}'{run.Title}: {what}",
                Quote.From(answer, run.Services.Redactor),
                $"GET {ShownAddress.Of(address)}, status {answer.Status}"));

    private string Position(int part, Uri address) =>
        part.ToString(CultureInfo.InvariantCulture) + " " + run.Requests.Kept(address).AbsoluteUri;

    private static (int Part, Uri Address) Parse(string position)
    {
        var space = position.IndexOf(' ', StringComparison.Ordinal);
        return (int.Parse(position[..space], CultureInfo.InvariantCulture), new Uri(position[(space + 1)..]));
    }
}
