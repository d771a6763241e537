using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads how a submitted export is waited for, found again and downloaded.</summary>
internal sealed class ExportReader(Reading reading, Scope scope)
{
    public ExportSteps? Read(SectionReader pull) => pull.Inside(PullKeys.Export, reading) is not { } export ? null : new ExportSteps
    {
        Find = ReadFind(export),
        PollAt = export.Pointer(PullKeys.PollAt),
        Every = export.Duration(PullKeys.Every) ?? TimeSpan.FromSeconds(5),
        State = export.Pointer(PullKeys.ExportState),
        Done = [.. export.Texts(PullKeys.Done).Select(item => item.Text)],
        Failed = [.. export.Texts(PullKeys.Failed).Select(item => item.Text)],
        Parts = export.Pointer(PullKeys.Parts) ?? JsonPointer.TryParse("")!,
        Link = export.Pointer(PullKeys.PartLink) ?? JsonPointer.TryParse("")!,
        IsWhole = export.Choice(PullKeys.Result) == "rows",
        PartRows = export.Pointer(PullKeys.PartRows),
        PartBytes = export.Pointer(PullKeys.PartBytes),
        PartDigest = export.Pointer(PullKeys.PartDigest),
        IsCsv = export.Choice(PullKeys.PartForm) == "csv",
    };

    private ExportFind? ReadFind(SectionReader export)
    {
        if (export.Inside(PullKeys.Find, reading) is not { } find)
            return null;
        var path = find.RawText(PullKeys.FindGet) ?? "";
        new PathCheck(reading, scope.Knows).Check(find, PullKeys.FindGet, path);
        var where = new List<KeyValuePair<JsonPointer, Template>>();
        foreach (var (name, place, text) in find.RawTextMap(PullKeys.FindWhere))
        {
            if (find.Pointer(name, place, PullKeys.FindWhere) is { } at
                && reading.FillBut(text, place, scope.Knows, scope.Hints) is { } template)
                where.Add(new(at, template));
        }

        if (!where.SelectMany(pair => pair.Value.Names).Concat(PathTemplate.Names(path, out _)).Contains(ExportSteps.Submission))
            reading.Add(
                find.Place,
                $"{find.Title} does not look for the submission",
                "use {submission} in get: or where:, at the place where the request sends it: where: { /reference: \"{submission}\" }");
        return new ExportFind(
            path,
            find.Pointer(PullKeys.FindRows) ?? JsonPointer.TryParse("")!,
            where,
            find.Pointer(PullKeys.FindLink) ?? JsonPointer.TryParse("")!);
    }
}
