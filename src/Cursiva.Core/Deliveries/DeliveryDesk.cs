using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Deliveries;

/// <summary>Enters the deliveries of runs into the ledger, and sends what is there.</summary>
/// <param name="folder">The folder of the job's outbox.</param>
/// <param name="tokens">The tokens of an identity.</param>
/// <param name="told">Is told what is sent, and what is not.</param>
public sealed class DeliveryDesk(Job job, LedgerBook ledger, IDisk disk, string folder, SecretSources secrets, Func<DeclaredIdentity?, ITokens?> tokens, Redactor redactor, TimeProvider clock, Action<string> told)
{
    private readonly Outbox _outbox = new(disk, folder);

    /// <summary>Enters what is to be delivered of a run, as it will leave. Nothing is sent.</summary>
    public async Task EnterAsync(RunNews news, CancellationToken cancel)
    {
        foreach (var delivery in job.Deliveries.Where(delivery => delivery.When == DeliveryTime.Failed == news.Refusal is not null))
        {
            List<WrittenFile> files = [.. news.Files.Where(file => delivery.Reports.Contains(file.Report))];
            var before = await ledger.EntriesAsync(cancel);
            var id = $"{delivery.Name}-{news.Number}";

            // What was entered by an earlier start of the same run may be on its way already.
            if (before.Any(entry => entry.Id == id && entry.Phase != LedgerPhase.Ready))
                continue;
            var digest = DigestOf(delivery, files);
            if (delivery.When == DeliveryTime.Rows && files.TrueForAll(file => file.Rows == 0))
                continue;
            if (delivery.When == DeliveryTime.Changed && before.LastOrDefault(entry => entry.Of == delivery.Name && entry.Phase != LedgerPhase.GivenUp)?.Digest == digest)
                continue;
            if (files.Count == 0 && news.Refusal is null)
                continue;
            await ledger.AddAsync(Put(delivery, id, news, files, digest), cancel);
        }

        await ledger.PruneAsync(cancel);
    }

    /// <summary>Sends whatever is pending, and looks at what is in doubt.</summary>
    /// <returns>The entries that were sent, and those that have something to be done about them now.</returns>
    public async Task<IReadOnlyList<LedgerEntry>> SendAsync(CancellationToken cancel)
    {
        var handled = new List<LedgerEntry>();
        foreach (var pending in (await ledger.EntriesAsync(cancel)).Where(entry => entry.IsPending))
        {
            cancel.ThrowIfCancellationRequested();
            var entry = pending;
            if (job.Deliveries.FirstOrDefault(delivery => delivery.Name == entry.Of) is not { } delivery)
            {
                handled.Add(entry with { Said = $"the job has no delivery '{entry.Of}' any more" });
                continue;
            }

            var carrier = CarrierOf(delivery);
            if (entry.Phase is LedgerPhase.Sending or LedgerPhase.InDoubt)
                entry = await LookAsync(entry, delivery, carrier);
            if (entry.Phase == LedgerPhase.Ready && clock.GetUtcNow() - entry.Since > delivery.Within)
                entry = await ledger.MoveAsync(entry, LedgerPhase.GivenUp, $"not delivered within {Durations.ForPeople(delivery.Within)}; {entry.Said}".TrimEnd(' ', ';'));
            else if (entry.Phase == LedgerPhase.Ready)
                entry = await SendAsync(entry, carrier, cancel);
            if (!entry.IsPending)
                Forget(entry);
            handled.Add(entry);
        }

        return handled;
    }

    /// <summary>Enters somebody's decision about an entry.</summary>
    /// <param name="phase">Sent, ready (to be sent again) or given up.</param>
    public async Task<LedgerEntry> DecideAsync(LedgerEntry entry, LedgerPhase phase)
    {
        var decided = await ledger.MoveAsync(phase == LedgerPhase.Ready ? entry with { Since = clock.GetUtcNow() } : entry, phase, "decided by hand");
        if (!decided.IsPending)
            Forget(decided);
        return decided;
    }

    /// <summary>What stops a run from being done with, told for people; null where nothing is left to do.</summary>
    public static Refusal? Objection(IReadOnlyList<LedgerEntry> handled)
    {
        List<LedgerEntry> left = [.. handled.Where(entry => entry.Phase is not LedgerPhase.Sent)];
        if (left.Count == 0)
            return null;
        var doubt = left.Exists(entry => entry.Phase == LedgerPhase.InDoubt);
        return new Refusal(Outcome.DeliveryFailed, $"{left.Count} {(left.Count == 1 ? "delivery has" : "deliveries have")} not left: {string.Join("; ", left.Select(entry => $"{entry.Id} is {Word(entry.Phase)}{(entry.Said.Length > 0 ? $" ({entry.Said})" : "")}"))}")
        {
            Cause = "the run itself is done; its rows and reports are there",
            NextStep = doubt
                ? $"find out whether it arrived, and tell: cursiva ledger JOB --sent {left.First(entry => entry.Phase == LedgerPhase.InDoubt).Id}, or --again, or --drop"
                : left.Exists(entry => entry.Phase == LedgerPhase.Ready) ? "mend what stands in the way, and send it: cursiva deliver JOB; the next run sends it, too" : "look at what was said, and send it again: cursiva ledger JOB --again ID",
        };
    }

    /// <summary>A phase as people call it.</summary>
    public static string Word(LedgerPhase phase) => phase switch
    {
        LedgerPhase.Ready => "ready",
        LedgerPhase.Sending => "sending",
        LedgerPhase.Sent => "sent",
        LedgerPhase.InDoubt => "in doubt",
        LedgerPhase.Refused => "refused",
        LedgerPhase.GivenUp => "given up",
    };

    private async Task<LedgerEntry> SendAsync(LedgerEntry entry, ICarrier carrier, CancellationToken cancel)
    {
        entry = await ledger.MoveAsync(entry, LedgerPhase.Sending);
        SendResult result;
        try
        {
            result = await carrier.SendAsync(entry, _outbox.FilesOf(entry), cancel);
        }
        catch (Exception error) when (error is RefusedException or OperationCanceledException or FileNotFoundException or DirectoryNotFoundException)
        {
            // Before anything left: a secret is missing, or somebody stopped it.
            await ledger.MoveAsync(entry, LedgerPhase.Ready, (error as RefusedException)?.Refusal.What);
            throw;
        }

        told(result.Phase == LedgerPhase.Sent ? $"delivered {entry.Id} to {entry.To}" : $"{entry.Id} is {Word(result.Phase)}: {result.Said}");
        return await ledger.MoveAsync(entry, result.Phase, result.Said);
    }

    private async Task<LedgerEntry> LookAsync(LedgerEntry entry, Delivery delivery, ICarrier carrier) => carrier.HasArrived(entry, _outbox.FilesOf(entry)) switch
    {
        true => await ledger.MoveAsync(entry, LedgerPhase.Sent, "looked up: it had arrived"),
        false => await ledger.MoveAsync(entry, LedgerPhase.Ready, "looked up: it had not arrived"),
        null when delivery.RepeatsInDoubt => await ledger.MoveAsync(entry, LedgerPhase.Ready, "it may have arrived before; sent again, as when-in-doubt: says"),
        null => entry.Phase == LedgerPhase.InDoubt ? entry : await ledger.MoveAsync(entry, LedgerPhase.InDoubt, "a process ended while it was sent"),
    };

    private LedgerEntry Put(Delivery delivery, string id, RunNews news, List<WrittenFile> files, string digest)
    {
        switch (delivery.Way)
        {
            case MailWay mail:
                var attached = MailLetter.Attached(mail, news, files);
                using (var message = MailLetter.Compose(job.Name, id, mail, news, files, attached))
                    _outbox.Put(id, 0, stream => message.WriteTo(stream));
                _outbox.Close(id);
                return new LedgerEntry(id, delivery.Name, news.Number, string.Join(", ", mail.To), digest, ["message.eml"], clock.GetUtcNow());
            case FolderWay way:
                foreach (var (place, file) in files.Index())
                {
                    _outbox.Put(id, place, stream =>
                    {
                        using var source = File.OpenRead(file.Path);
                        source.CopyTo(stream);
                    });
                }

                _outbox.Close(id);
                return new LedgerEntry(id, delivery.Name, news.Number, Path.GetFullPath(Path.Combine(job.Folder, way.Path.Fill(news.Names))), digest, [.. files.Select(file => Path.GetRelativePath(news.OutFolder, file.Path))], clock.GetUtcNow());
            default:
                throw new InvalidOperationException($"a delivery goes by {delivery.Way.GetType().Name}, and nothing carries that");
        }
    }

    private ICarrier CarrierOf(Delivery delivery) => delivery.Way switch
    {
        MailWay mail => new MailCarrier(mail, secrets, tokens(mail.Identity), redactor),
        FolderWay => new FolderCarrier(disk),
        _ => throw new InvalidOperationException($"a delivery goes by {delivery.Way.GetType().Name}, and nothing carries that"),
    };

    // Rows that are the same are the same bytes in files of rows; pages and workbooks name their run.
    private string DigestOf(Delivery delivery, List<WrittenFile> files)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var data = job.Reports.Where(report => delivery.Reports.Contains(report.Name)).SelectMany(report => report.Files).Where(DeliveryReader.IsData).Select(file => Path.GetExtension(file.Path.Text)).ToHashSet(StringComparer.Ordinal);
        foreach (var file in files.Where(file => data.Contains(Path.GetExtension(file.Path))).OrderBy(file => file.Path, StringComparer.Ordinal))
        {
            hash.AppendData(Encoding.UTF8.GetBytes($"{file.Report}/{Path.GetExtension(file.Path)}\n"));
            using var stream = File.OpenRead(file.Path);
            hash.AppendData(SHA256.HashData(stream));
        }

        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    private void Forget(LedgerEntry entry)
    {
        if (entry.Phase != LedgerPhase.Refused)
            _outbox.Remove(entry.Id);
    }
}
