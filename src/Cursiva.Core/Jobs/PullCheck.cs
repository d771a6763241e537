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
        if (section.Has(PayloadKeys.ValidateBody) && (pull.Request.Body is null || pull.Request.BodyIsForm))
            reading.Add(
                section.At(PayloadKeys.ValidateBody),
                $"{section.Title} has no JSON to validate",
                pull.Request.BodyIsForm ? "remove body-as: form, or validate-body:" : "add post: and body:");
        if (pull.Paging.Delta is not null)
            Needs(section, PullKeys.Paging, PullKeys.KeyOf, pull.Key.Count > 0);
        foreach (var (name, _) in pull.Carry.Where(
            carried => pull.Columns.Any(column => column.Name.Equals(carried.Key, StringComparison.OrdinalIgnoreCase))))
            reading.Add(
                section.At(PullKeys.Carry),
                $"column '{name}' of {section.Title} is both carried and declared",
                "give one of them another name");
        Excludes(section, PullKeys.Export, PullKeys.Paging);
        Excludes(section, PullKeys.Download, PullKeys.Paging);
        Excludes(section, PullKeys.Download, PullKeys.Export);
        if (pull.Paging.Targets.Any(target => target.Kind == PositionTargetKind.Body) && pull.Request.Body is not DeclaredBody.Group)
            reading.Add(section.At(PullKeys.Paging), $"{section.Title} sends a cursor in its body but has no body", "add post: and body:");
        foreach (var target in pull.Paging.Targets.Where(target => target.Kind == PositionTargetKind.Placeholder))
        {
            if (!PathTemplate.Names(pull.Request.Path, out _).Contains(target.Name))
                reading.Add(
                    section.At(PullKeys.Paging),
                    $"{section.Title} sends a page at {{{target.Name}}}, but its path has no such placeholder",
                    $"write it into the path: /depots/pages/{{{target.Name}}}");
            else if (!pull.Paging.Style.IsCounted && PathTemplate.IsBare(pull.Request.Path, target.Name))
                reading.Add(
                    section.At(PullKeys.Paging),
                    $"{section.Title} has no value for {{{target.Name}}} on its first page",
                    $"write {{/{target.Name}}} or {{?{target.Name}}}, which are omitted without a value");
            if (reading.Inputs.ContainsKey(target.Name))
                reading.Add(
                    section.At(PullKeys.Paging),
                    $"'{target.Name}' is already the name of an input",
                    "choose another name for the placeholder");
        }

        if (pull.Paging.Style.IsStream && pull.Rows.Form is not (RowsForm.Array or RowsForm.Batches))
            reading.Add(
                section.At(PullKeys.Rows),
                $"{section.Title} is a stream, but its rows: is for pages",
                "remove rows:, or use inside: for batches");
        if (pull.Paging is { Style.IsStream: true, Stream: StreamForm.Csv } && section.Has(PullKeys.Rows))
            reading.Add(
                section.At(PullKeys.Rows),
                $"{section.Title} is CSV but has rows:",
                "remove rows:; every line after the header is a row");
        if (pull.Per is { Batch: > 1 } && section.Has(PullKeys.Carry))
            reading.Add(
                section.At(PullKeys.Carry),
                $"{section.Title} carries fields of one row, but requests a batch of rows at once",
                "remove carry:, and join the tables in SQL by a field of the answer");
        if (pull.Export?.Find is not null && !new NamesOfRequest(pull).All.Contains(ExportSteps.Submission))
            reading.Add(
                section.At(PullKeys.Export),
                $"{section.Title} looks for its submission but does not send {{submission}}",
                "send {submission} where the API stores it: in body:, query: or headers:");
        if (pull.Window is not null)
        {
            Excludes(section, PullKeys.Window, PullKeys.Opens);
            Excludes(section, PullKeys.Window, PullKeys.Download);
            Excludes(section, PullKeys.Window, PullKeys.Incremental);
            if (pull.Window.AtMost is not null)
                Excludes(section, PullKeys.Window, PullKeys.Export);
            if (!new NamesOfRequest(pull).All.Contains(Window.FromName))
                reading.Add(
                    section.At(PullKeys.Window),
                    $"{section.Title} has a window, but its request has no {{window.from}}",
                    "write {window.from} and {window.to} into get:, query:, headers: or body:, as the API expects them");
        }

        if (pull.Incremental?.Overlap is { } overlap
            && Durations.TryParse(overlap) is null
            && !decimal.TryParse(
                overlap, System.Globalization.NumberStyles.AllowDecimalPoint, System.Globalization.CultureInfo.InvariantCulture, out _))
            reading.Add(
                section.At(PullKeys.Incremental),
                $"'{overlap}' is not an overlap",
                "write a duration for times, 10m, or a number for numbers, 100");
    }

    private void Needs(SectionReader section, Key key, Key needed, bool there)
    {
        if (section.Has(key) && !there)
            reading.Add(section.At(key), $"{section.Title} has {key.Name} without {needed.Name}", $"add {needed.Name}: {needed.Gist}");
    }

    private void Excludes(SectionReader section, Key one, Key other)
    {
        if (section.Has(one) && section.Has(other))
            reading.Add(section.At(other), $"{section.Title} has both {one.Name} and {other.Name}", "keep one of them");
    }
}
