using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads how a submitted export is waited for, found again and downloaded.</summary>
internal sealed class ExportReader(Reading reading, Scope scope)
{
    public ExportSteps? Read(SectionReader pull) => pull.Inside(PullKeys.Export, reading) is not { } export ? null : new ExportSteps
    {
        Find = ReadFind(export),
        PollAt = export.Pointer(ExportKeys.PollAt),
        Every = export.Duration(ExportKeys.Every) ?? TimeSpan.FromSeconds(5),
        State = export.Pointer(ExportKeys.ExportState),
        Done = [.. export.Texts(ExportKeys.Done).Select(item => item.Text)],
        Failed = [.. export.Texts(ExportKeys.Failed).Select(item => item.Text)],
        Parts = export.Pointer(ExportKeys.Parts) ?? JsonPointer.TryParse("")!,
        Link = export.Pointer(ExportKeys.PartLink) ?? JsonPointer.TryParse("")!,
        IsWhole = export.Choice(ExportKeys.Result) == "rows",
        PartRows = export.Pointer(ExportKeys.PartRows),
        PartBytes = export.Pointer(ExportKeys.PartBytes),
        PartDigest = export.Pointer(ExportKeys.PartDigest),
        IsCsv = export.Choice(ExportKeys.PartForm) == "csv",
    };

    private ExportFind? ReadFind(SectionReader export)
    {
        if (export.Inside(ExportKeys.Find, reading) is not { } find)
            return null;
        var path = find.RawText(ExportKeys.FindGet) ?? "";
        new PathCheck(reading, scope.Knows).Check(find, ExportKeys.FindGet, path);
        var where = new List<KeyValuePair<JsonPointer, Template>>();
        foreach (var (name, place, text) in find.RawTextMap(ExportKeys.FindWhere))
        {
            if (find.Pointer(name, place, ExportKeys.FindWhere) is { } at
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
            find.Pointer(ExportKeys.FindRows) ?? JsonPointer.TryParse("")!,
            where,
            find.Pointer(ExportKeys.FindLink) ?? JsonPointer.TryParse("")!);
    }
}
