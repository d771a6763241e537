using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;

namespace Cursiva.Core.Deliveries;

/// <summary>Enters the deliveries of runs into the ledger, and sends what is there.</summary>
/// <param name="outbox">What is to leave.</param>
/// <param name="told">Is told what is sent, and what is not.</param>
public sealed class DeliveryDesk(
    Job job, LedgerBook ledger, IDisk disk, Outbox outbox, IDeliveryWays<ICarrier> carriers, TimeProvider clock, Action<string> told)
{
    /// <summary>Enters what is to be delivered of a run, as it will leave. Nothing is sent.</summary>
    /// <returns>The entries that cannot be sent.</returns>
    public async Task<IReadOnlyList<LedgerEntry>> EnterAsync(RunNews news, CancellationToken cancel)
    {
        var before = await ledger.EntriesAsync(cancel);
        var refused = new List<LedgerEntry>();
        foreach (var delivery in job.Deliveries.Where(delivery => IsAbout(delivery, news)))
        {
            List<WrittenFile> files = [.. news.Files.Where(file => delivery.Reports.Contains(file.Report))];
            if (files.Count == 0 && delivery.Reports.Count > 0)
                continue;
            var id = $"{delivery.Name}-{news.Number}";
            foreach (var parcel in Parcels(delivery, id, news, files))
            {
                if (await EnterAsync(delivery, parcel, before, cancel) is { Phase: LedgerPhase.Refused } entry)
                    refused.Add(entry);
            }
        }

        await ledger.PruneAsync(cancel);
        return refused;
    }

    /// <summary>Composes what would be delivered of a run, and enters nothing.</summary>
    /// <param name="into">The folder that shows it, file by file under their names.</param>
    /// <returns>Each delivery, who would receive it, what it is or why it would not leave, and where it is shown.</returns>
    public async Task<IReadOnlyList<(string Delivery, string To, string What, string? Path)>> ComposeAsync(
        RunNews news, string into, CancellationToken cancel)
    {
        var shown = new List<(string, string, string, string?)>();
        var before = await ledger.EntriesAsync(cancel);
        foreach (var delivery in job.Deliveries.Where(delivery => !delivery.TellsOfTrouble))
        {
            List<WrittenFile> files = [.. news.Files.Where(file => delivery.Reports.Contains(file.Report))];
            foreach (var parcel in Parcels(delivery, $"{delivery.Name}-{news.Number}", news, files))
            {
                var place = Path.Combine(into, parcel.Id);
                var box = new Outbox(disk, into + ".part");
                var digest = DigestOf(delivery, parcel);
                var packed = await delivery.Way.Of(carriers).PackAsync(parcel, box, cancel);
                var what = packed.Refused
                    ?? (IsWanted(delivery, parcel, before, digest)
                        ? string.Join(", ", packed.Files)
                        : $"it would not be sent: when: {delivery.When.ToString().ToLowerInvariant()}");
                var entry = new LedgerEntry(parcel.Id, delivery.Name, news.Number, packed.To, "", packed.Files, clock.GetUtcNow());
                foreach (var (name, path) in packed.Files.Zip(box.FilesOf(entry)))
                    Outbox.Copy(disk, path, Path.Combine(place, name));
                disk.DeleteFolder(into + ".part");
                shown.Add((parcel.Id, packed.To, what, packed.Refused is null ? place : null));
            }
        }

        return shown;
    }

    /// <summary>Sends whatever is pending, and looks at what is in doubt.</summary>
    /// <returns>The entries that were sent, and those that have something to be done about them now.</returns>
    public async Task<IReadOnlyList<LedgerEntry>> SendAsync(CancellationToken cancel)
    {
        var handled = new List<LedgerEntry>();
        foreach (var pending in (await ledger.EntriesAsync(cancel)).Where(entry => entry.IsPending && !entry.IsWrite))
        {
            cancel.ThrowIfCancellationRequested();
            var entry = pending;
            await outbox.BringAsync(entry.Id, cancel);
            if (job.Deliveries.FirstOrDefault(delivery => delivery.Name == entry.Of) is not { } delivery)
            {
                handled.Add(entry with { Said = $"the job no longer has a delivery '{entry.Of}'" });
                continue;
            }

            var carrier = delivery.Way.Of(carriers);
            if (entry.Phase is LedgerPhase.Sending or LedgerPhase.InDoubt)
                entry = await LookAsync(entry, delivery, carrier, cancel);
            if (entry.Phase == LedgerPhase.Ready && clock.GetUtcNow() - entry.Since > delivery.Within)
                entry = await ledger.MoveAsync(
                    entry,
                    LedgerPhase.GivenUp,
                    $"not delivered within {Durations.ForPeople(delivery.Within)}; {entry.Said}".TrimEnd(' ', ';'));
            else if (entry.Phase == LedgerPhase.Ready)
                entry = await SendAsync(entry, carrier, cancel);
            if (!entry.IsPending)
                await ForgetAsync(entry);
            handled.Add(entry);
        }

        return handled;
    }

    /// <summary>Enters somebody's decision about an entry.</summary>
    /// <param name="phase">Sent, ready (to be sent again) or given up.</param>
    public async Task<LedgerEntry> DecideAsync(LedgerEntry entry, LedgerPhase phase)
    {
        var decided = await ledger.MoveAsync(
            phase == LedgerPhase.Ready ? entry with { Since = clock.GetUtcNow(), Insists = true } : entry, phase, "decided by hand");
        if (!decided.IsPending)
            await ForgetAsync(decided);
        return decided;
    }

    private async Task<LedgerEntry> SendAsync(LedgerEntry entry, ICarrier carrier, CancellationToken cancel)
    {
        entry = await ledger.MoveAsync(entry, LedgerPhase.Sending);
        SendResult result;
        try
        {
            result = await carrier.SendAsync(entry, outbox.FilesOf(entry), cancel);
        }
        catch (Exception error) when (
            error is RefusedException or OperationCanceledException or FileNotFoundException or DirectoryNotFoundException)
        {
            // Before anything left: a secret is missing, or somebody stopped it.
            await ledger.MoveAsync(entry, LedgerPhase.Ready, (error as RefusedException)?.Refusal.What);
            throw;
        }

        told(
            result.Phase == LedgerPhase.Sent
                ? $"delivered {entry.Id} to {entry.To}"
                : $"{entry.Id} is {LedgerWords.Of(result.Phase)}: {result.Said}");
        return await ledger.MoveAsync(result.Taken.Count > 0 ? entry with { Taken = result.Taken } : entry, result.Phase, result.Said);
    }

    private async Task<LedgerEntry> LookAsync(LedgerEntry entry, Delivery delivery, ICarrier carrier, CancellationToken cancel) =>
        await carrier.HasArrivedAsync(
        entry, outbox.FilesOf(entry), cancel) switch
        {
            true => await ledger.MoveAsync(entry, LedgerPhase.Sent, "looked up: it had arrived"),
            false => await ledger.MoveAsync(entry, LedgerPhase.Ready, "looked up: it had not arrived"),
            null when delivery.RepeatsInDoubt => await ledger.MoveAsync(
                entry, LedgerPhase.Ready, "it may have arrived before; sent again because of when-in-doubt:"),
            null => entry.Phase == LedgerPhase.InDoubt ? entry : await ledger.MoveAsync(
                entry, LedgerPhase.InDoubt, "a process ended while sending it"),
        };

    private static bool IsAbout(Delivery delivery, RunNews news) => delivery.When switch
    {
        DeliveryTime.Late => news.Alarm is not null,
        DeliveryTime.Failed => news.Refusal is not null,
        DeliveryTime.Always or DeliveryTime.Rows or DeliveryTime.Changed => news.Refusal is null && news.Alarm is null,
    };

    // One for the run, or one for each file.
    private static IEnumerable<Parcel> Parcels(Delivery delivery, string id, RunNews news, List<WrittenFile> files)
    {
        var extract = news.Extracts.GetValueOrDefault(delivery.Name);
        var asked = delivery.Way is MailWay { ToSql: not null };
        if (!delivery.IsPerFile)
            return [new Parcel(
                id, news, files, asked ? [.. extract?.Recipients.Select(to => to.Value).Distinct() ?? []] : null, extract?.Rows)];
        return files.GroupBy(file => file.Value).Index().Select(group => new Parcel(
            string.Create(CultureInfo.InvariantCulture, $"{id}.{group.Index + 1}"),
            news,
            [.. group.Item],
            asked ? [.. extract?.Recipients.Where(to => to.Key == group.Item.Key).Select(to => to.Value) ?? []] : null,
            null));
    }

    private async Task<LedgerEntry?> EnterAsync(
        Delivery delivery, Parcel parcel, IReadOnlyList<LedgerEntry> before, CancellationToken cancel)
    {
        // What was entered by an earlier start of the same run may be on its way already.
        if (before.Any(entry => entry.Id == parcel.Id && entry.Phase != LedgerPhase.Ready && entry.Files.Count > 0))
            return null;
        var digest = DigestOf(delivery, parcel);
        if (!IsWanted(delivery, parcel, before, digest))
            return null;
        var packed = await delivery.Way.Of(carriers).PackAsync(parcel, outbox, cancel);
        var made = new LedgerEntry(parcel.Id, delivery.Name, parcel.News.Number, packed.To, digest, packed.Files, clock.GetUtcNow())
        {
            Recipients = packed.Recipients,
            About = Subject(delivery, parcel),
        };
        if (packed.Refused is { } refused)
            made = made with { Phase = LedgerPhase.Refused, Said = refused };
        await outbox.ShareAsync(made.Id, cancel);
        await ledger.AddAsync(made, cancel);
        return made;
    }

    private static bool IsWanted(Delivery delivery, Parcel parcel, IReadOnlyList<LedgerEntry> before, string digest) => delivery.When switch
    {
        DeliveryTime.Rows => (parcel.Rows?.Manifest.Count ?? parcel.ReportRows) > 0,
        DeliveryTime.Changed =>
            before.LastOrDefault(
                entry => entry.Of == delivery.Name
                    && entry.About == Subject(delivery, parcel)
                    && entry.Phase != LedgerPhase.GivenUp)?.Digest != digest,
        DeliveryTime.Always or DeliveryTime.Failed or DeliveryTime.Late => true,
    };

    private static string Subject(Delivery delivery, Parcel parcel) => delivery.IsPerFile ? parcel.Files[0].Value ?? "" : "";

    // Rows that are the same are the same bytes in files of rows; pages and workbooks name their run.
    private string DigestOf(Delivery delivery, Parcel parcel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var data = job.Reports
            .Where(report => delivery.Reports.Contains(report.Name))
            .SelectMany(report => report.Files)
            .Where(DeliveryReader.IsData)
            .Select(file => Path.GetExtension(file.Path.Text))
            .ToHashSet(
            StringComparer.Ordinal);
        foreach (var file in parcel.Files.Where(file => data.Contains(Path.GetExtension(file.Path))).OrderBy(
            file => file.Path, StringComparer.Ordinal))
            Append(hash, $"{file.Report}/{Path.GetExtension(file.Path)}\n", file.Path);
        if (parcel.Rows is { } rows)
            Append(hash, string.Join(',', rows.Manifest.Columns.Select(column => $"{column.Name} {column.Type}")), rows.Path);
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    private static void Append(IncrementalHash hash, string name, string path)
    {
        hash.AppendData(Encoding.UTF8.GetBytes(name));
        using var stream = File.OpenRead(path);
        hash.AppendData(SHA256.HashData(stream));
    }

    private Task ForgetAsync(LedgerEntry entry) => entry.Phase == LedgerPhase.Refused ? Task.CompletedTask : outbox.RemoveAsync(entry.Id);
}
