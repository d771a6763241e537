using System.Globalization;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Submits an export, waits until it is done, and downloads its parts. What was submitted is noted before anything else, so that a
/// run that is gone on with asks for that export and submits no other.
/// </summary>
internal sealed class ExportedListing(StrandRun run)
{
    private const int Attempts = 4;

    private readonly ExportSteps _steps = run.Pull.Export!;

    /// <summary>Lands every part that is still missing.</summary>
    /// <exception cref="RefusedException">The API refused, the export failed, or a part is not what the pull expects.</exception>
    public async Task RunAsync(CancellationToken cancel)
    {
        var last = run.Last;
        var (part, address) = last?.Next is { } position ? Parse(position) : (0, await SubmitAsync(cancel));
        var parts = await PollAsync(address, last is not null, cancel);
        if (parts.Count == 0)
            run.Land([], 0, null, ended: Ending.Parts);
        for (; part < parts.Count; part++)
            await LandPartAsync(parts[part], address, part + 1 < parts.Count ? Position(part + 1, address) : null, cancel);
    }

    private async Task<Uri> SubmitAsync(CancellationToken cancel)
    {
        var request = run.Requests.At(null) with { Once = true };
        using var answer = await run.SendAsync(request, null, goesOn: false, cancel);
        var text = _steps.PollAt is { } at ? Read(answer, at) : answer.Headers.Location?.OriginalString;
        if (text is null || !Uri.TryCreate(request.Uri, text, out var address))
            throw Odd(request.Uri, answer, _steps.PollAt is null ? "the answer to the submission has no Location header" : $"the answer to the submission has no address at poll-at: {_steps.PollAt}");
        run.Client.CheckWithin(address, request.Uri);
        run.Land([], 0, Position(0, address));
        await run.Services.Landing.CommitAsync(cancel);
        if (RetryAfter.Read(answer.Headers, run.Services.Clock.GetUtcNow()) is { } wait)
            await WaitAsync($"the export of pull '{run.Pull.Name}'", wait, cancel);
        return address;
    }

    private async Task<List<Uri>> PollAsync(Uri address, bool isEarlier, CancellationToken cancel)
    {
        var goesOn = isEarlier;
        while (true)
        {
            using var answer = await run.SendAsync(new ApiRequest(HttpMethod.Get, address), address.AbsoluteUri, goesOn, cancel);
            goesOn = false;
            var state = _steps.State is { } at ? Read(answer, at) : null;
            if (state is not null && _steps.Failed.Contains(state))
            {
                // One that an earlier start had submitted will not come to life again.
                if (isEarlier && !run.Work.WasRestarted(run.Strand))
                    throw new StrandRestart(run.Work, run.Strand, $"the export of pull '{run.Pull.Name}'{run.Title} that was submitted before has ended with the state '{state}', and is submitted again");
                throw Odd(address, answer, $"the export ended with the state '{state}'; the next start submits it again");
            }

            if (_steps.State is null ? answer.Status != 202 : state is not null && _steps.Done.Contains(state))
                return Parts(address, answer);

            var wait = RetryAfter.Read(answer.Headers, run.Services.Clock.GetUtcNow()) ?? _steps.Every;
            await WaitAsync($"the export of pull '{run.Pull.Name}'{(state is null ? "" : $" (it is '{state}')")}", wait, cancel);
        }
    }

    private async Task WaitAsync(string reason, TimeSpan wait, CancellationToken cancel)
    {
        run.Client.CheckPause(wait);
        run.Services.Budget.CheckWait(wait, reason);
        run.Services.Requests.Waiting(reason, wait);
        await Task.Delay(wait, run.Services.Clock, cancel);
        run.Services.Requests.Waited(wait);
    }

    private List<Uri> Parts(Uri address, Answer answer)
    {
        var parts = new List<Uri>();
        try
        {
            var array = JsonFind.Raw(answer.Body.Content, _steps.Parts);
            if (array.IsEmpty || array[0] is not ((byte)'[' or (byte)'n'))
                throw Odd(address, answer, $"the export is done, and no array stands at parts: {_steps.Parts}");
            using var document = System.Text.Json.JsonDocument.Parse(array.ToArray());
            foreach (var part in document.RootElement.ValueKind == System.Text.Json.JsonValueKind.Array ? document.RootElement.EnumerateArray().ToList() : [])
            {
                if (_steps.Link.Find(part) is not { ValueKind: System.Text.Json.JsonValueKind.String } link || !Uri.TryCreate(address, link.GetString(), out var uri))
                    throw Odd(address, answer, $"part {parts.Count + 1} of the export has no address at link: {_steps.Link}");
                run.Client.CheckWithin(uri, address);
                parts.Add(uri);
            }
        }
        catch (System.Text.Json.JsonException)
        {
            throw Odd(address, answer, "the answer is no JSON");
        }

        return parts;
    }

    private async Task LandPartAsync(Uri part, Uri address, string? next, CancellationToken cancel)
    {
        var request = new ApiRequest(HttpMethod.Get, part) { Accept = "*/*", Streams = true, Verbatim = true };
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                using var answer = await run.SendAsync(request, address.AbsoluteUri, goesOn: false, cancel);
                var content = Packing.Unpack(answer.Stream!, answer.ContentHeaders?.ContentEncoding ?? (IEnumerable<string>)[]);
                using var stream = new BoundedStream(await Gunzip.IfPackedAsync(content, cancel), run.Client.LargestFile, cancel);
                if (_steps.IsCsv)
                    await CsvListing.LandAsync(run, stream, request, next, Ending.Parts, cancel);
                else
                    await StreamedListing.LandAsync(run, stream, StreamForm.Lines, request, next, Ending.Parts, cancel);
                return;
            }
            catch (Exception error) when (error is TransportException or InvalidDataException)
            {
                run.DropPieces();
                if (attempt >= Attempts)
                    throw new RefusedException(Catalogue.Refuse(new Facts(Desk.Api, Trouble.CutOff), $"a part of the export of pull '{run.Pull.Name}' did not come whole: {error.Message}", null, $"GET {ShownAddress.Of(part)}"), error);
                await run.WaitToRepeatAsync(request, error.Message, attempt, cancel);
            }
        }
    }

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
        new(Catalogue.Refuse(new Facts(Desk.Api, Trouble.NotUnderstood, answer.Status) { Words = answer.Body.Text(2000) }, $"pull '{run.Pull.Name}'{run.Title}: {what}", Quote.From(answer, run.Services.Redactor), $"GET {ShownAddress.Of(address)}, status {answer.Status}"));

    private string Position(int part, Uri address) => part.ToString(CultureInfo.InvariantCulture) + " " + run.Requests.Kept(address).AbsoluteUri;

    private static (int Part, Uri Address) Parse(string position)
    {
        var space = position.IndexOf(' ', StringComparison.Ordinal);
        return (int.Parse(position[..space], CultureInfo.InvariantCulture), new Uri(position[(space + 1)..]));
    }
}
