using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.State;

namespace Cursiva.Core.Writes;

/// <summary>Uploads files as the items of a write.</summary>
/// <param name="job">The job's name.</param>
/// <param name="ledgerKey">Names the job in state.</param>
/// <param name="clientOf">The client for an item, by its values.</param>
/// <param name="told">Is told what is planned.</param>
public sealed class FileDesk(
    string job,
    IReadOnlyList<Input> inputs,
    IState state,
    string ledgerKey,
    SignInServices services,
    Func<Write,
    Func<string,
    string?>,
    CancellationToken,
    Task<ApiClient>> clientOf,
    Action<string> told)
{
    /// <summary>Uploads the files of an entry that are not there yet.</summary>
    /// <param name="files">Their paths.</param>
    /// <returns>Where the entry stands now, and what is told of it.</returns>
    public async Task<(LedgerPhase Phase, string Said)> SendAsync(
        Write steps, LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        await using var book = new ItemBook(state, ledgerKey, steps.Name, services.Clock);
        using var inFlight = new SemaphoreSlim(1, 1);
        var context = new WriteContext(
            job,
            inputs.Select(input => input.Name).ToHashSet(StringComparer.Ordinal),
            steps,
            book,
            services,
            new DocumentSchemas(services.Folder),
            inFlight);
        var items = files[0] + ".items";
        var keys = entry.Files.Select(name => (IReadOnlyList<string>)[entry.Id, name]).ToList();
        await File.WriteAllLinesAsync(
            items,
            entry.Files.Select(
                (name, place) => JsonSerializer.Serialize(FileValues.Item(keys[place], name, files[place]), WriteJson.Default.WriteItem)),
            cancel);
        var (phase, said) = await new WriteBatch(context, inputs, clientOf, told).SendAsync(entry, items, files[0] + ".plan", cancel);
        if (phase == LedgerPhase.Sent)
        {
            foreach (var key in keys)
                await book.ForgetAsync(JsonSerializer.Serialize([.. key], WriteJson.Default.StringArray), cancel);
        }

        return (phase, said);
    }

    /// <summary>
    /// Enters somebody's decision about the files of an entry that are in doubt: those that are sent again, or need nothing more.
    /// </summary>
    public async Task DecideAsync(Write steps, LedgerEntry entry, LedgerPhase phase, CancellationToken cancel)
    {
        await using var book = new ItemBook(state, ledgerKey, steps.Name, services.Clock);
        foreach (var key in entry.Files.Select(name => JsonSerializer.Serialize([entry.Id, name], WriteJson.Default.StringArray)))
        {
            if (phase != LedgerPhase.Ready)
                await book.ForgetAsync(key, cancel);
            else if (await book.FindAsync(key, cancel) is { Phase: ItemPhase.InDoubt or ItemPhase.Sending } item)
                await book.EnterAsync(ItemDecision.Decided(item, phase));
        }
    }
}
