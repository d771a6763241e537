using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Writes;

/// <summary>
/// Takes the steps of one item, in their order. A step that changes something is noted before it leaves and after its answer came; one
/// that may have been taken already is looked up before it is repeated (promise 14).
/// </summary>
/// <param name="clients">The client of each step, by its name.</param>
/// <param name="steps">Those of the write, or those that remove its items.</param>
internal sealed class ItemSteps(WriteContext context, IReadOnlyDictionary<string, ApiClient> clients, IReadOnlyList<WriteStep> steps)
{
    // A list may lag behind what was made a moment ago.
    private const int LooksForLost = 3;

    private static readonly JsonSerializerOptions s_plain = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private static readonly TimeSpan s_beforeLook = TimeSpan.FromSeconds(1);

    /// <summary>Looks until a step comes that would change something.</summary>
    /// <returns>The place of that step; null where nothing is to be changed.</returns>
    /// <exception cref="ItemRefusedException">The item cannot be sent.</exception>
    public async Task<int?> DecideAsync(ItemWork work, CancellationToken cancel)
    {
        for (var place = 0; place < steps.Count; place++)
        {
            if (!work.Takes(steps[place]))
                continue;
            if (!steps[place].IsLook)
                return context.Write.OnlyIfChanged && await IsThereAsync(work, steps[place], cancel) == true ? null : place;
            await LookAsync(work, steps[place], cancel);
        }

        return null;
    }

    /// <summary>Takes the steps from one on.</summary>
    /// <returns>Where the item stands now; it is noted.</returns>
    /// <exception cref="RefusedException">The API failed, or the sign-in: the item is as it was, and others would fare no better.</exception>
    public async Task<ItemEntry> TakeAsync(ItemWork work, int from, CancellationToken cancel)
    {
        try
        {
            return await WalkAsync(work, from, mayLookAgain: true, cancel);
        }
        catch (ItemRefusedException error)
        {
            return await context.Book.EnterAsync(work.Entry with { Phase = ItemPhase.Refused, Said = context.Services.Redactor.Clean(error.Message) });
        }
    }

    /// <summary>Finds out about a step that may have been taken.</summary>
    /// <returns>The place to go on from; null where nobody knows.</returns>
    /// <exception cref="ItemRefusedException">The look does not find one thing.</exception>
    public async Task<int?> ResolveAsync(ItemWork work, bool atOnce, CancellationToken cancel)
    {
        var place = steps.ToList().FindIndex(step => step.Name == work.Entry.Step);
        if (place < 0)
            return 0;
        var step = steps[place];
        if (step.MayRepeat)
            return place;
        var looks = steps.Take(place).Where(look => look.IsLook).ToList();
        if (looks.Count > 0)
        {
            for (var attempt = 1; ; attempt++)
            {
                foreach (var look in looks.Where(work.Takes))
                    await LookAsync(work, look, cancel);
                if (step.When is { Found: false } missing)
                {
                    if (work.Found.GetValueOrDefault(missing.Look))
                        return Arrived(work, place, work.Things[missing.Look]);
                    if (!atOnce || attempt == LooksForLost)
                        return place;
                    await Waits.DelayAsync(s_beforeLook, context.Services.Clock, cancel);
                    continue;
                }

                switch (await IsThereAsync(work, step, cancel))
                {
                    case true:
                        return Arrived(work, place, work.Things[step.When?.Look ?? looks[^1].Name]);
                    case false:
                        return place;
                    case null:
                        return context.Write.RepeatsInDoubt ? place : null;
                }
            }
        }

        return context.Write.RepeatsInDoubt && !atOnce ? place : null;
    }

    /// <summary>The requests from a step on, as JSON, one line each; what earlier answers would bring stands as its placeholder.</summary>
    /// <param name="taken">Whether the looks before were taken, so that it is known which steps follow.</param>
    public async Task<IReadOnlyList<string>> ShowAsync(ItemWork work, int from, bool taken, CancellationToken cancel)
    {
        var lines = new List<string>();
        foreach (var step in steps.Skip(from).Where(step => !taken || work.Takes(step)))
        {
            var line = new JsonObject { ["item"] = JsonNode.Parse(work.Entry.Key), ["step"] = step.Name };
            try
            {
                work.Values.Assume(context.Names, steps.Select(other => other.Name));
                var body = await StepBody.OfAsync(step, work.Values, context.Services.Secrets, cancel);
                var request = await Requests(step).MakeAsync(step, work.Values, body, StepRequests.KeyOf(context.Job, context.Write.Name, work.Entry, step.Name), cancel);
                line["method"] = request.Method.Method;
                line["address"] = context.Services.Redactor.Clean(Uri.UnescapeDataString(ShownAddress.Of(request.Uri)));
                if (request.Headers.Count > 0)
                    line["headers"] = new JsonObject(request.Headers.Select(header => KeyValuePair.Create(header.Key, (JsonNode?)context.Services.Redactor.Clean(header.Value))));
                if (body.Json is not null)
                    line["body"] = JsonNode.Parse(context.Services.Redactor.Clean(body.Json.ToJsonString(s_plain)));
                else if (body.Bytes is not null)
                    line["body"] = context.Services.Redactor.Clean(System.Text.Encoding.UTF8.GetString(body.Bytes));
                if (step.When is { } when && !taken)
                    line["when"] = $"{when.Look} {(when.Found ? "found" : "not-found")}";
                if (step.Schema is { } schema && context.Schemas.Objection(schema, body.Json is { } json ? Encoding.UTF8.GetBytes(json.ToJsonString()) : "null"u8) is { } objection)
                    line["refused"] = $"the body does not match {schema}: {objection}";
            }
            catch (ItemRefusedException error)
            {
                line["refused"] = error.Message;
            }

            lines.Add(line.ToJsonString(s_plain));
        }

        return lines;
    }

    private int Arrived(ItemWork work, int place, byte[] thing)
    {
        work.Values.Take(steps[place].Name, context.Names, thing, null);
        return place + 1;
    }

    private async Task<ItemEntry> WalkAsync(ItemWork work, int from, bool mayLookAgain, CancellationToken cancel)
    {
        var entry = work.Entry;
        for (var place = from; place < steps.Count; place++)
        {
            var step = steps[place];
            if (!work.Takes(step))
                continue;
            if (step.IsLook)
            {
                await LookAsync(work, step, cancel);
                continue;
            }

            var body = await StepBody.OfAsync(step, work.Values, context.Services.Secrets, cancel);
            if (step.Schema is { } schema && context.Schemas.Objection(schema, body.Json is { } json ? Encoding.UTF8.GetBytes(json.ToJsonString()) : "null"u8) is { } objection)
                throw new ItemRefusedException($"the body of step '{step.Name}' does not match {schema}: {objection}");
            var begun = entry.Step == step.Name;
            entry = entry with { Step = step.Name, Begun = begun ? entry.Begun : 0 };
            var request = await Requests(step).MakeAsync(step, work.Values, body, StepRequests.KeyOf(context.Job, context.Write.Name, entry, step.Name), cancel);
            entry = await context.Book.EnterAsync(entry with { Phase = ItemPhase.Sending, Said = "", Values = Answers(work), Found = work.Found });
            var looked = steps.Take(place).Any(look => look.IsLook);
            try
            {
                using var answer = await SendAsync(request, step, work, looked, begun, cancel);
                if (SkipRules.Match(context.Write.SkipWhen, answer) is { } skip)
                    return await context.Book.EnterAsync(entry with { Phase = ItemPhase.Skipped, Said = skip.Because ?? $"status {answer.Status}" });
                if (answer.Status is 409 or 412)
                    return await LookAgainAsync(work with { Entry = entry }, step, answer, mayLookAgain, cancel);
                work.Values.Take(step.Name, context.Names, Json(answer), answer.Header("ETag"));
            }
            catch (RefusedException error) when (error.Refusal.MayHaveArrived)
            {
                return await DoubtAsync(work with { Entry = entry }, error, mayLookAgain, cancel);
            }
            catch (RefusedException error) when (error.Refusal is { Status: >= 400 and < 500 and not (408 or 429), Outcome: Outcome.ApiFailed })
            {
                return await context.Book.EnterAsync(entry with { Phase = ItemPhase.Refused, Said = context.Services.Redactor.CleanLine(Words(error.Refusal)) });
            }
            catch (Exception error) when (error is RefusedException or OperationCanceledException)
            {
                // It has not been done, or may be done again under the same key.
                await context.Book.EnterAsync(entry with { Phase = ItemPhase.Ready, Said = error is RefusedException refused ? context.Services.Redactor.CleanLine(refused.Refusal.What) : "" });
                throw;
            }
        }

        return await context.Book.EnterAsync(entry with { Phase = ItemPhase.Sent, Begun = 0, Values = Kept(work), Found = new Dictionary<string, bool>() });
    }

    // The thing was changed or made meanwhile: once, the item begins again with its looks.
    private async Task<ItemEntry> LookAgainAsync(ItemWork work, WriteStep step, Answer answer, bool mayLookAgain, CancellationToken cancel)
    {
        if (!mayLookAgain)
            throw new ItemRefusedException($"step '{step.Name}' was answered with status {answer.Status}, even after a second lookup: {Quote.From(answer, context.Services.Redactor)}");
        work.Found.Clear();
        work.Things.Clear();
        return await DecideAsync(work, cancel) is { } place
            ? await WalkAsync(work, place, mayLookAgain: false, cancel)
            : await context.Book.EnterAsync(work.Entry with { Phase = ItemPhase.Sent, Said = WriteContext.AsItWas, Values = Kept(work), Found = new Dictionary<string, bool>() });
    }

    private async Task<ItemEntry> DoubtAsync(ItemWork work, RefusedException lost, bool mayLookAgain, CancellationToken cancel)
    {
        var entry = await context.Book.EnterAsync(work.Entry with { Phase = ItemPhase.InDoubt, Said = context.Services.Redactor.CleanLine(lost.Refusal.What) });
        return mayLookAgain && await ResolveAsync(work, atOnce: true, cancel) is { } place ? await WalkAsync(work with { Entry = entry }, place, mayLookAgain: false, cancel) : entry;
    }

    private async Task<Answer> SendAsync(ApiRequest request, WriteStep step, ItemWork work, bool looked, bool begun, CancellationToken cancel)
    {
        bool Expects(Answer answer) => (looked && answer.Status is 409 or 412) || (step.Method == StepMethod.Delete && answer.Status is 404 or 410) || SkipRules.Match(context.Write.SkipWhen, answer) is not null;
        await context.InFlight.WaitAsync(cancel);
        try
        {
            return step.File == FileBody.Pieces
                ? await new PieceSender(clients[step.Name], request, step, work.Values.Needed(FileValues.Path), FileValues.Length(work.Values)).SendAsync(begun, Expects, cancel)
                : await clients[step.Name].SendAsync(request with { Expects = Expects }, cancel);
        }
        finally
        {
            context.InFlight.Release();
        }
    }

    private async Task LookAsync(ItemWork work, WriteStep step, CancellationToken cancel)
    {
        // A look that no item has a part in is the same for all.
        var found = step.Names.Any(name => ValueEscape.Split(name).Name is var bare && !context.Inputs.Contains(bare))
            ? await FindAsync(work, step, cancel)
            : await context.Shared.GetOrAdd((clients[step.Name], step.Name), _ => FindAsync(work, step, cancel));
        work.Found[step.Name] = found is not null;
        work.Values.Take(step.Name, context.Names, found?.Thing, found?.Etag);
        if (found is { } thing)
            work.Things[step.Name] = thing.Thing;
        else
            work.Things.Remove(step.Name);
    }

    private async Task<(byte[] Thing, string? Etag)?> FindAsync(ItemWork work, WriteStep step, CancellationToken cancel)
    {
        var request = await Requests(step).MakeAsync(step, work.Values, new StepBody(null, "application/json", null), "", cancel);
        await context.InFlight.WaitAsync(cancel);
        try
        {
            return await new Look(clients[step.Name], context.Services.Redactor).FindAsync(step, request, work.Values, cancel);
        }
        finally
        {
            context.InFlight.Release();
        }
    }

    // Whether what a step would send is there already; null where nobody knows.
    private async Task<bool?> IsThereAsync(ItemWork work, WriteStep step, CancellationToken cancel)
    {
        if (step.When is { Found: false } || step.Method == StepMethod.Delete || steps.LastOrDefault(look => look.IsLook && work.Things.ContainsKey(look.Name) && (step.When is null || step.When.Look == look.Name)) is not { } look)
            return null;
        var body = await StepBody.OfAsync(step, work.Values, context.Services.Secrets, cancel);
        return body.IsIn(JsonNode.Parse(work.Things[look.Name]));
    }

    private StepRequests Requests(WriteStep step) => new(clients[step.Name], context.Services.Secrets);

    private Dictionary<string, string> Answers(ItemWork work) =>
        work.Values.Raw.Where(pair => context.Names.Contains(pair.Key) && !pair.Key.StartsWith(Write.Row + ".", StringComparison.Ordinal)).ToDictionary(StringComparer.Ordinal);

    private Dictionary<string, string> Kept(ItemWork work) => work.Values.Raw.Where(pair => context.KeptNames.Contains(pair.Key)).ToDictionary(StringComparer.Ordinal);

    private static string Words(Refusal refusal) => $"{refusal.What}{(refusal.Quote is { } quote ? $": {quote}" : "")}";

    private static ReadOnlySpan<byte> Json(Answer answer)
    {
        var body = answer.Body.Content;
        try
        {
            var reader = new Utf8JsonReader(body);
            if (!reader.Read() || reader.TokenType != JsonTokenType.StartObject)
                return default;
            reader.Skip();
            return body;
        }
        catch (JsonException)
        {
            return default;
        }
    }
}
