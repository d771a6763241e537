using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads how a pull is paged.</summary>
internal sealed class PagingReader(Reading reading)
{
    public Paging Read(SectionReader pull)
    {
        if (PagingStyles.All.FirstOrDefault(style => style.IsChosenBy(pull)) is { } own)
            return new Paging(own);
        if (pull.Inside(PullKeys.Paging, reading) is not { } section)
            return Paging.OnePage;

        var chosen = PagingStyles.All
            .SelectMany(style => style.Keys.Select(key => (Key: key, Style: style)))
            .Where(style => section.Has(style.Key))
            .ToList();
        if (chosen.Count != 1)
        {
            reading.Add(
                section.Place,
                chosen.Count == 0
                    ? $"{section.Title} does not say how to find the next page"
                    : $"{section.Title} has both {string.Join(" and ", chosen.Select(style => style.Key.Name))}",
                chosen.Count == 0
                    ? $"add one of {string.Join(", ", PagingStyles.All.SelectMany(style => style.Keys).Select(key => key.Name))}"
                    : "keep the one that the API documents");
            return Paging.OnePage;
        }

        var (key, style) = chosen[0];
        var more = More(section);
        var paging = style.Read(section, reading, new Paging(style)
        {
            Targets = Targets(section),
            PageSize = section.Whole(PagingKeys.PageSize),
            SizeParameter = section.Text(PagingKeys.SizeParameter),
            Total = section.Pointer(PagingKeys.Total),
            TotalHeader = section.Text(PagingKeys.TotalHeader),
            Pages = section.Pointer(PagingKeys.Pages),
            PagesHeader = section.Text(PagingKeys.PagesHeader),
            EndStatus = section.Whole(PagingKeys.EndStatus),
            More = more.At,
            MoreIs = more.Is,
            MostPages = section.Whole(PagingKeys.MostPages) ?? Paging.DefaultMostPages,
            MostRows = section.Whole(PagingKeys.MostRows) ?? Paging.DefaultMostRows,
            AllowMissing = section.Share(PagingKeys.AllowMissing) ?? 0,
            OnePageMayLackIt = section.Switch(PagingKeys.Optional) == true,
            Delta = section.Pointer(PagingKeys.Delta),
            DeltaParameter = section.Text(PagingKeys.DeltaParameter),
            AgainWhenShifted = section.Choice(PagingKeys.WhenShifted) == "again",
        });
        Check(section, paging, key);
        return paging;
    }

    private (JsonPointer? At, string? Is) More(SectionReader section)
    {
        if (section.Node(PagingKeys.More) is not YamlDotNet.RepresentationModel.YamlMappingNode)
            return (section.Pointer(PagingKeys.More), null);
        var inside = section.Inside(PagingKeys.More, reading)!;
        return (inside.Pointer(PagingKeys.MoreAt), inside.Text(PagingKeys.MoreIs));
    }

    private void Check(SectionReader section, Paging paging, Key chosen)
    {
        var (style, sends) = (paging.Style, paging.Style.SendsValues);
        if (sends && paging.Targets.Count == 0)
            reading.Add(
                section.Place,
                $"{section.Title} has {chosen.Name} without parameter",
                "say how to send it: parameter: for the query, header:, body-at: for a place in body:, or placeholder: for one in the path");
        else if (paging.Places.Count > 1 && sends && paging.Targets.Count != paging.Places.Count)
            reading.Add(
                section.At(chosen),
                $"{section.Title} has {paging.Places.Count} places at {chosen.Name}, and {paging.Targets.Count} of parameter, header, body-at and placeholder",
                "give one for each place, in the same order: parameter: [after_time, after_id]");
        if (!sends
            && new[] { PagingKeys.Parameter, PagingKeys.SendHeader, PagingKeys.BodyAt, PagingKeys.Placeholder }.FirstOrDefault(
                section.Has) is { } target)
            reading.Add(
                section.At(target),
                $"{section.Title} has {target.Name} without cursor",
                $"{chosen.Name} sends nothing back; remove it, or page by cursor:, page-number:, offset: or keyset:");
        if (paging.SizeParameter is not null && paging.PageSize is null)
            reading.Add(
                section.At(PagingKeys.SizeParameter),
                $"{section.Title} has size-parameter without page-size",
                "add page-size: with the number to request");
        if (paging is { Total: not null, TotalHeader: not null })
            reading.Add(
                section.At(PagingKeys.TotalHeader),
                $"{section.Title} has both total and total-header",
                "keep the one that the API documents");
        if (paging.PagesHeader is not null && (paging.Pages is not null || !style.CountsPages))
            reading.Add(
                section.At(PagingKeys.PagesHeader),
                $"{section.Title} has pages-header {(paging.Pages is not null ? "beside pages" : "without page-number")}",
                "keep the one that the API documents");
        if (paging.EndStatus is not null && !style.AsksBehindTheEnd)
            reading.Add(
                section.At(PagingKeys.EndStatus),
                $"{section.Title} has end-status with {chosen.Name}",
                "only listings by page-number:, offset: or keyset: request a page past the last one; remove it");
        if (paging.Pages is not null && !style.CountsPages)
            reading.Add(
                section.At(PagingKeys.Pages), $"{section.Title} has pages without page-number", "use total: or page-size: to find the end");
        if (paging.DeltaParameter is not null && paging.Delta is null)
            reading.Add(
                section.At(PagingKeys.DeltaParameter),
                $"{section.Title} has changes-parameter without changes",
                "add changes: with the place of the token");
        if (paging.Delta is not null && !style.MayLeadToChanges)
            reading.Add(
                section.At(PagingKeys.Delta),
                $"{section.Title} has changes with {chosen.Name}",
                "a delta token needs next-link:, link-header: or cursor:");
        if (paging.AgainWhenShifted && !style.IsCounted)
            reading.Add(
                section.At(PagingKeys.WhenShifted),
                $"{section.Title} has when-shifted with {chosen.Name}",
                "only listings by page-number: or offset: shift; remove it");
    }

    private static List<PositionTarget> Targets(SectionReader section) =>
    [
        .. section.Texts(PagingKeys.Parameter).Select(item => new PositionTarget(PositionTargetKind.Parameter, item.Text)),
        .. section.Texts(PagingKeys.SendHeader).Select(item => new PositionTarget(PositionTargetKind.Header, item.Text)),
        .. section.Pointers(PagingKeys.BodyAt).Select(place => new PositionTarget(PositionTargetKind.Body, place.Text)),
        .. section.Texts(PagingKeys.Placeholder).Select(item => new PositionTarget(PositionTargetKind.Placeholder, item.Text)),
    ];
}
