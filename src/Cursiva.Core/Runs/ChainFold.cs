using System.Buffers;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>
/// Folds the landings that an incremental pull's state is made of into one, so that a job of many runs does not open them all. Only
/// runs are folded that retain: does not ask for; nothing is read from the fold before the record of its run says that it is whole.
/// </summary>
/// <param name="runs">The runs before this one, oldest first.</param>
internal sealed class ChainFold(Job job, IReadOnlyList<RunRecord> runs, JobFolder folder, RunOptions options, SharedLandings? shared = null)
{
    /// <summary>So many landings are worth a fold.</summary>
    public const int Worth = 8;

    private const int PageBytes = 1024 * 1024;

    /// <summary>Folds whatever is worth it.</summary>
    /// <returns>The records of the runs that have a fold now, to be written down: until then it does not count.</returns>
    /// <exception cref="IOException">The disk does not take it.</exception>
    /// <exception cref="LandingDamagedException">A landing is not as it was.</exception>
    public async Task<IReadOnlyList<RunRecord>> FoldAsync(CancellationToken cancel)
    {
        var kept = RunPruner.Asked(runs, job.Keep, options.Clock.GetUtcNow());
        List<RunRecord> old = [.. runs.Where(run => run.Phase == RunPhase.Done && (kept.Count == 0 || run.Number < kept.Min()))];
        if (old.Count == 0)
            return [];

        var folded = new List<string>();
        foreach (var pull in job.Pulls.Where(pull => pull.GoesOnFromRuns))
        {
            // What a kept full run has replaced is pruned, and not worth a fold.
            if (runs.Any(run => run.Number > old[^1].Number && run.Phase == RunPhase.Done && run.AskedForAll(pull))
                || RunHistory.Chain(pull, old).Count() < Worth)
                continue;
            await FoldAsync(pull, old, cancel);
            folded.Add(pull.Name);
        }

        return folded.Count == 0 ? [] : [old[^1] with { Folded = [.. old[^1].Folded.Union(folded)] }];
    }

    private async Task FoldAsync(Pull pull, List<RunRecord> old, CancellationToken cancel)
    {
        var to = folder.FoldOf(old[^1].Number, pull.Name);
        options.Disk.DeleteFolder(to);
        if (shared is not null)
            await shared.ClearAsync(to, cancel);
        await using var chain = new RunHistory(
            old, () => old[^1] with { Number = int.MaxValue, Full = false, Anew = [] }, folder, options).Earlier(
            pull);
        var landings = chain.ReadStrands(pull.Name);
        var replaced = ReplacedRows.Find(pull, landings, cancel);
        await using var landing = new RunLanding(options.Disk, to, options.Clock, shared: shared?.Of(to));
        using var target = landing.Open(pull.Name);
        var (row, strands) = (0, 0);
        foreach (var rows in landings)
            Copy(rows);
        await landing.CommitAsync(cancel);

        // Rows stay in their order: each stretch of one strand becomes a strand of the fold.
        void Copy(StrandRows rows)
        {
            var lines = new ArrayBufferWriter<byte>();
            var (count, key, from) = (0, "", (Values: "", Carried: Array.Empty<byte>()));
            rows.Read(
                (values, carried, line) =>
                {
                    if (replaced[row++])
                        return;
                    if (key.Length == 0 || values != from.Values || !carried.SequenceEqual(from.Carried))
                    {
                        Flush();
                        (key, from) = (StrandKey.Of("", strands++, 0), (values, carried.ToArray()));
                        target.Put(new LandedStrand(pull.Name, key, values, Encoding.UTF8.GetString(carried), ""));
                    }

                    lines.Write(line);
                    count++;
                    if (lines.WrittenCount > PageBytes)
                        Flush();
                },
                cancel);
            Flush();

            void Flush()
            {
                if (count > 0)
                    target.Append(key, lines.WrittenSpan, count, null);
                lines.ResetWrittenCount();
                count = 0;
            }
        }
    }
}
