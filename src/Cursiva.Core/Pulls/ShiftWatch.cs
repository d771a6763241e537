using System.IO.Hashing;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Notices a counted listing that shifts while it is paged: rows of the last page come again on the next one, or the total moves.
/// It remembers the keys of two pages and no more.
/// </summary>
internal sealed class ShiftWatch(StrandRun run)
{
    private HashSet<ulong> _before = [];
    private long? _total;

    /// <summary>Looks at the next page, in order.</summary>
    /// <exception cref="StrandRestart">It shifted, and the job wants it taken again.</exception>
    public void Look(ReadOnlySpan<byte> lines, PageScan scan)
    {
        if (!run.Pull.Paging.Style.IsCounted)
            return;
        if (_total is { } before && scan.Total is { } now && now != before)
            Shifted($"its total changed from {before} to {now}");
        _total = scan.Total ?? _total;
        if (run.Pull.Key.Count == 0)
            return;

        var keys = new HashSet<ulong>();
        while (lines.Length > 0)
        {
            var end = lines.IndexOf((byte)'\n');
            var key = Digest(lines[..end]);
            if (_before.Contains(key) || !keys.Add(key))
                Shifted("a row came twice");
            lines = lines[(end + 1)..];
        }

        _before = keys;
    }

    private void Shifted(string why)
    {
        var what = $"pull '{run.Pull.Name}'{run.Title} shifted while it was paged: {why}; rows may be missing or duplicated";
        if (run.Pull.Paging.AgainWhenShifted && !run.Context.WasRestarted(run.Strand))
            throw new StrandRestart(run.Context, run.Strand, what);
        run.Context.Warn(
            run.Pull.Paging.AgainWhenShifted ? what + ", even the second time" : what + " (when-shifted: again fetches it from the start)");
    }

    private ulong Digest(ReadOnlySpan<byte> row)
    {
        var digest = new XxHash64();
        foreach (var at in run.Pull.Key)
        {
            digest.Append(JsonFind.Raw(row, at));
            digest.Append("\0"u8);
        }

        return digest.GetCurrentHashAsUInt64();
    }
}
