namespace Cursiva.Core.Writes;

/// <summary>How many items a write changes, leaves alone and cannot send.</summary>
internal sealed class WriteCounts
{
    private readonly Lock _gate = new();
    private readonly Dictionary<string, int> _byStep = new(StringComparer.Ordinal);

    /// <summary>Items of the write's SQL.</summary>
    public int Items { get; set; }

    public int Unchanged { get; private set; }

    public int Refused { get; private set; }

    public int InDoubt { get; private set; }

    public int Skipped { get; private set; }

    /// <summary>Items that are to be changed.</summary>
    public int Changes { get; private set; }

    /// <summary>What was said of the first item that was refused or is in doubt; empty for none.</summary>
    public string First { get; private set; } = "";

    /// <summary>Notes that an item is to be changed, beginning with a step.</summary>
    public void Plan(string step)
    {
        lock (_gate)
        {
            _byStep[step] = _byStep.GetValueOrDefault(step) + 1;
            Changes++;
        }
    }

    /// <summary>Notes that an item needs no change.</summary>
    public void Leave()
    {
        lock (_gate)
            Unchanged++;
    }

    /// <summary>Notes where an item stands that is not to be changed now, or was not.</summary>
    public void Note(ItemEntry entry)
    {
        lock (_gate)
        {
            switch (entry.Phase)
            {
                case ItemPhase.Refused:
                    Refused++;
                    break;
                case ItemPhase.InDoubt or ItemPhase.Sending:
                    InDoubt++;
                    break;
                case ItemPhase.Skipped:
                    Skipped++;
                    return;
                default:
                    return;
            }

            if (First.Length == 0)
                First = $"{WriteItem.TitleOf(entry.Key)}: {entry.Said}";
        }
    }

    /// <summary>The plan or its outcome on one line: create 3, update 12, unchanged 185.</summary>
    public string Words(IEnumerable<string> steps)
    {
        var parts = steps.Where(_byStep.ContainsKey).Select(step => $"{step} {_byStep[step]:N0}")
            .Concat(
                new (string Word, int Count)[] { ("unchanged", Unchanged), ("skipped", Skipped), ("refused", Refused), ("in doubt", InDoubt) }.Where(part => part.Count > 0).Select(part => $"{part.Word} {part.Count:N0}")).ToList();
        return parts.Count == 0 ? "nothing to do" : string.Join(", ", parts);
    }
}
