using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Writes;

/// <summary>Works through the items of one write of one run: looks and plans first, then changes.</summary>
/// <param name="clientOf">The client for an item, by its values.</param>
/// <param name="told">Is told the plan.</param>
internal sealed class WriteBatch(WriteContext context, IReadOnlyList<Input> inputs, Func<Write, Func<string, string?>, CancellationToken, Task<ApiClient>> clientOf, Action<string> told)
{
    // A permission that is missing is missing for all items.
    private const int ForbiddenInARow = 5;

    private readonly IReadOnlyDictionary<string, string> _inputs = inputs.ToDictionary(input => input.Name, input => input.Value, StringComparer.Ordinal);
    private readonly WriteCounts _counts = new();
    private int _forbidden;

    private Write Write => context.Write;

    private IEnumerable<string> StepNames => Write.Steps.Concat(Write.Remove).Select(step => step.Name);

    /// <summary>Works on a batch.</summary>
    /// <param name="items">The file of its items.</param>
    /// <param name="plan">The file that takes the plan.</param>
    /// <returns>Where it stands now, and what is told of it.</returns>
    public async Task<(LedgerPhase Phase, string Said)> SendAsync(LedgerEntry batch, string items, string plan, CancellationToken cancel)
    {
        try
        {
            await PlanAsync(batch, items, plan, cancel);
            var words = _counts.Words(StepNames);
            told($"{batch.Id}: {words}");
            if (Write.MostChanges is { } most && !batch.Insists && !most.Allows(_counts.Changes, Math.Max(_counts.Items, 1)))
                return (LedgerPhase.Refused, $"{words}; most-changes: allows only {most} changes, so none was made");
            await ForEachAsync(ItemFile.ReadPlan(plan), (planned, stop) => ChangeAsync(planned, batch.Run, stop), cancel);
            return End(words);
        }
        catch (RefusedException error)
        {
            return (LedgerPhase.Ready, context.Services.Redactor.CleanLine($"{error.Refusal.What}{(error.Refusal.Quote is { } quote ? $": {quote}" : "")}"));
        }
    }

    /// <summary>Writes down the requests that a batch would make.</summary>
    /// <param name="into">The file that takes them, a line of JSON each.</param>
    /// <param name="asks">Whether looks are taken; otherwise every request is shown that might be sent.</param>
    /// <returns>The plan on one line.</returns>
    public async Task<string> ShowAsync(LedgerEntry batch, string items, string into, bool asks, CancellationToken cancel)
    {
        await using var writer = new StreamWriter(into);
        if (!asks)
        {
            foreach (var item in ItemFile.Read(items))
            {
                _counts.Items++;
                try
                {
                    var (steps, work) = await OpenAsync(Write.Steps, item.Values, new ItemEntry(item.Key, item.Digest, batch.Run), cancel);
                    foreach (var line in await steps.ShowAsync(work, 0, taken: false, cancel))
                        await writer.WriteLineAsync(line);
                }
                catch (ItemRefusedException)
                {
                    _counts.Note(new ItemEntry(item.Key, item.Digest, batch.Run) { Phase = ItemPhase.Refused });
                }
            }

            return $"{_counts.Items:N0} {(_counts.Items == 1 ? "item" : "items")}; --ask runs the lookups and shows which steps follow{(_counts.Refused > 0 ? $"; {_counts.Refused:N0} would be refused" : "")}";
        }

        var plan = into + ".plan";
        await PlanAsync(batch, items, plan, cancel);
        foreach (var planned in ItemFile.ReadPlan(plan))
        {
            var declared = planned.Removes ? Write.Remove : Write.Steps;
            var (steps, work) = await OpenAsync(declared, planned.Values, new ItemEntry(planned.Item.Key, planned.Item.Digest, batch.Run) { Found = planned.Found }, cancel);
            foreach (var line in await steps.ShowAsync(work, declared.ToList().FindIndex(step => step.Name == planned.Step), taken: true, cancel))
                await writer.WriteLineAsync(line);
        }

        File.Delete(plan);
        return _counts.Words(StepNames);
    }

    private (LedgerPhase Phase, string Said) End(string planned)
    {
        var words = _counts.Words(StepNames);
        var first = _counts.First.Length > 0 ? $"; {_counts.First}" : "";
        return _counts.InDoubt > 0 ? (LedgerPhase.InDoubt, words + first) : _counts.Refused > 0 ? (LedgerPhase.Refused, words + first) : (LedgerPhase.Sent, planned);
    }

    private async Task PlanAsync(LedgerEntry batch, string items, string plan, CancellationToken cancel)
    {
        var keys = new HashSet<string>(StringComparer.Ordinal);
        await using var writer = new StreamWriter(plan);
        using var gate = new SemaphoreSlim(1, 1);
        foreach (var item in ItemFile.Read(items))
        {
            _counts.Items++;
            if (Write.Remove.Count > 0)
                keys.Add(item.Key);
        }

        await ForEachAsync(ItemFile.Read(items), async (item, stop) =>
        {
            if (await PlanAsync(item, batch, stop) is { } planned)
                await WriteAsync(planned, stop);
        }, cancel);
        if (Write.Remove.Count > 0)
            await PlanRemovalsAsync(keys, batch, planned => WriteAsync(planned, cancel), cancel);

        async Task WriteAsync(PlannedItem planned, CancellationToken stop)
        {
            _counts.Plan(planned.Step);
            await gate.WaitAsync(stop);
            try
            {
                await writer.WriteLineAsync(JsonSerializer.Serialize(planned, WriteJson.Default.PlannedItem));
            }
            finally
            {
                gate.Release();
            }
        }
    }

    private async Task<PlannedItem?> PlanAsync(WriteItem item, LedgerEntry batch, CancellationToken cancel)
    {
        var known = await context.Book.FindAsync(item.Key, cancel);
        if (known is { Phase: ItemPhase.Sent or ItemPhase.Skipped } && known.Run == batch.Run)
        {
            _counts.Leave();
            return null;
        }

        if (known is { Phase: ItemPhase.Refused } && known.Run == batch.Run && !batch.Insists)
        {
            _counts.Note(known);
            return null;
        }

        var doubt = known?.Digest == item.Digest && (known.Phase is ItemPhase.Sending or ItemPhase.InDoubt || known is { Phase: ItemPhase.Ready, Step.Length: > 0 });
        if (!doubt && Write.OnlyIfChanged && known is { Phase: ItemPhase.Sent } && known.Digest == item.Digest)
        {
            _counts.Leave();
            return null;
        }

        var entry = doubt ? known! with { Run = batch.Run, Begun = known.Begun > 0 ? known.Begun : known.Run } : new ItemEntry(item.Key, item.Digest, batch.Run);
        try
        {
            return await DecideAsync(item, entry, doubt, cancel);
        }
        catch (ItemRefusedException error)
        {
            _counts.Note(await context.Book.EnterAsync(entry with { Run = batch.Run, Phase = ItemPhase.Refused, Said = context.Services.Redactor.Clean(error.Message) }));
            return null;
        }
    }

    private async Task<PlannedItem?> DecideAsync(WriteItem item, ItemEntry entry, bool doubt, CancellationToken cancel)
    {
        var (steps, work) = await OpenAsync(Write.Steps, item.Values, entry, cancel);
        int? place;
        if (!doubt)
        {
            place = await steps.DecideAsync(work, cancel);
        }
        else if (entry.Phase == ItemPhase.Ready)
        {
            place = Write.Steps.ToList().FindIndex(step => step.Name == entry.Step) is >= 0 and var at ? at : await steps.DecideAsync(work, cancel);
        }
        else if (await steps.ResolveAsync(work, atOnce: false, cancel) is { } resolved)
        {
            place = resolved;
        }
        else
        {
            _counts.Note(await context.Book.EnterAsync(entry with { Phase = ItemPhase.InDoubt, Said = entry.Said.Length > 0 ? entry.Said : "a process ended while sending it" }));
            return null;
        }

        if (place is { } from && from < Write.Steps.Count)
            return new PlannedItem(item, Write.Steps[from].Name, work.Values.Raw, work.Found, doubt && entry.Step == Write.Steps[from].Name ? entry.Begun : 0, Removes: false);
        await context.Book.EnterAsync(entry with { Digest = item.Digest, Phase = ItemPhase.Sent, Step = "", Said = doubt ? "looked up: it had arrived" : WriteContext.AsItWas, Values = work.Values.Raw.Where(pair => context.KeptNames.Contains(pair.Key)).ToDictionary(StringComparer.Ordinal), Found = new Dictionary<string, bool>() });
        _counts.Leave();
        return null;
    }

    private async Task PlanRemovalsAsync(HashSet<string> keys, LedgerEntry batch, Func<PlannedItem, Task> plan, CancellationToken cancel)
    {
        foreach (var entry in (await context.Book.AllAsync(cancel)).Where(entry => !keys.Contains(entry.Key) && entry.Run <= batch.Run))
        {
            if (entry.Phase == ItemPhase.Removed && entry.Run < batch.Run)
                await context.Book.ForgetAsync(entry.Key, cancel);
            else if (entry.Phase is not (ItemPhase.Removed or ItemPhase.Refused or ItemPhase.Skipped))
                await plan(new PlannedItem(new WriteItem(entry.Key, entry.Digest, entry.Values), Write.Remove[0].Name, entry.Values, new Dictionary<string, bool>(), 0, Removes: true));
        }
    }

    private async Task ChangeAsync(PlannedItem planned, int run, CancellationToken cancel)
    {
        var entry = new ItemEntry(planned.Item.Key, planned.Item.Digest, run) { Values = planned.Values, Found = planned.Found, Begun = planned.Begun, Step = planned.Begun > 0 ? planned.Step : "" };
        var declared = planned.Removes ? Write.Remove : Write.Steps;
        ItemEntry ended;
        try
        {
            var (steps, work) = await OpenAsync(declared, planned.Values, entry, cancel);
            ended = await steps.TakeAsync(work, planned.Removes ? 0 : declared.ToList().FindIndex(step => step.Name == planned.Step), cancel);
        }
        catch (ItemRefusedException error)
        {
            ended = await context.Book.EnterAsync(entry with { Phase = ItemPhase.Refused, Said = context.Services.Redactor.Clean(error.Message) });
        }

        if (planned.Removes && ended.Phase == ItemPhase.Sent)
            ended = await context.Book.EnterAsync(ended with { Phase = ItemPhase.Removed });
        _counts.Note(ended);
        CheckForbidden(ended);
    }

    private void CheckForbidden(ItemEntry ended)
    {
        var isForbidden = ended.Phase == ItemPhase.Refused && (ended.Said.Contains("status 401", StringComparison.Ordinal) || ended.Said.Contains("status 403", StringComparison.Ordinal));
        if (Interlocked.Exchange(ref _forbidden, isForbidden ? _forbidden + 1 : 0) + 1 >= ForbiddenInARow && isForbidden)
            throw new RefusedException(new Refusal(Outcome.DeliveryFailed, $"{ForbiddenInARow} items in a row were refused, so the rest was not tried: {ended.Said}"));
    }

    private async Task<(ItemSteps Steps, ItemWork Work)> OpenAsync(IReadOnlyList<WriteStep> steps, IReadOnlyDictionary<string, string> values, ItemEntry entry, CancellationToken cancel)
    {
        var filled = new ItemValues(_inputs, new Dictionary<string, string>(), values);
        var clients = new Dictionary<string, ApiClient>(StringComparer.Ordinal);
        foreach (var step in steps)
            clients[step.Name] = await ClientAsync(step, filled, cancel);
        var all = new ItemValues(_inputs, clients.Values.First().TokenFields, values.Concat(entry.Values.Where(pair => !values.ContainsKey(pair.Key))));
        return (new ItemSteps(context, clients, steps), new ItemWork(entry, all, new(entry.Found, StringComparer.Ordinal)));
    }

    // A value that makes no identity or API is its own item's matter.
    private async Task<ApiClient> ClientAsync(WriteStep step, ItemValues values, CancellationToken cancel)
    {
        try
        {
            return await clientOf(Write.For(step), values.Text, cancel);
        }
        catch (JobMistakesException error)
        {
            throw new ItemRefusedException(error.Mistakes[0].Found);
        }
    }

    // Twice as many items as requests: while one waits for the disk, another one's request is on its way.
    private Task ForEachAsync<T>(IEnumerable<T> source, Func<T, CancellationToken, Task> work, CancellationToken cancel) =>
        Parallel.ForEachAsync(source, new ParallelOptions { MaxDegreeOfParallelism = Write.Parallel * 2, CancellationToken = cancel }, async (item, stop) => await work(item, stop));
}
