using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Finds keys of a pull that do not go together.</summary>
internal sealed class PullCheck(Reading reading)
{
    public void Check(SectionReader section, Pull pull)
    {
        Needs(section, PullKeys.Carry, PullKeys.Per, pull.Per is not null);
        Needs(section, PullKeys.Link, PullKeys.Per, pull.Per is not null);
        Needs(section, PullKeys.AllowSkips, PullKeys.SkipWhen, pull.SkipWhen.Count > 0);
        Needs(section, PullKeys.DeletedWhen, PullKeys.KeyOf, pull.Key.Count > 0);
        Needs(section, PullKeys.Incremental, PullKeys.KeyOf, pull.Key.Count > 0);
        if (pull.Paging.Delta is not null)
            Needs(section, PullKeys.Paging, PullKeys.KeyOf, pull.Key.Count > 0);
        foreach (var (name, _) in pull.Carry.Where(carried => pull.Columns.Any(column => column.Name.Equals(carried.Key, StringComparison.OrdinalIgnoreCase))))
            reading.Add(section.At(PullKeys.Carry), $"column '{name}' of {section.Title} is both carried and declared", "give one of them another name");
        Excludes(section, PullKeys.Export, PullKeys.Paging);
        Excludes(section, PullKeys.Download, PullKeys.Paging);
        Excludes(section, PullKeys.Download, PullKeys.Export);
        if (pull.Paging.BodyAt is not null && pull.Request.Body is not DeclaredBody.Group)
            reading.Add(section.At(PullKeys.Paging), $"{section.Title} sends a cursor in its body and has none", "add post: and body:");
        if (pull.Paging.IsStream && pull.Rows.Form is not (RowsForm.Array or RowsForm.Batches))
            reading.Add(section.At(PullKeys.Rows), $"{section.Title} is a stream, and its rows: is for a page", "leave rows: out, or give inside: for batches");
        if (pull.Paging is { IsStream: true, Stream: StreamForm.Csv } && section.Has(PullKeys.Rows))
            reading.Add(section.At(PullKeys.Rows), $"{section.Title} is CSV, and has rows:", "leave rows: out; every line behind the header is a row");
        if (pull.Incremental?.Overlap is { } overlap && Durations.TryParse(overlap) is null && !decimal.TryParse(overlap, System.Globalization.NumberStyles.AllowDecimalPoint, System.Globalization.CultureInfo.InvariantCulture, out _))
            reading.Add(section.At(PullKeys.Incremental), $"'{overlap}' is no overlap", "write a duration for times, 10m, or a number for numbers, 100");
    }

    private void Needs(SectionReader section, Key key, Key needed, bool there)
    {
        if (section.Has(key) && !there)
            reading.Add(section.At(key), $"{section.Title} has {key.Name} without {needed.Name}", $"add {needed.Name}: {needed.Meaning}");
    }

    private void Excludes(SectionReader section, Key one, Key other)
    {
        if (section.Has(one) && section.Has(other))
            reading.Add(section.At(other), $"{section.Title} has both {one.Name} and {other.Name}", "keep one of them");
    }
}
