using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads how a pull is paged.</summary>
internal sealed class PagingReader(Reading reading)
{
    public Paging Read(SectionReader pull)
    {
        if (pull.Has(PullKeys.Export))
            return new Paging(PagingStyle.Export);
        if (pull.Has(PullKeys.Download))
            return new Paging(PagingStyle.Download);
        if (pull.Inside(PullKeys.Paging, reading) is not { } section)
            return new Paging(PagingStyle.OnePage);

        var chosen = PullKeys.Styles.Where(style => section.Has(style.Key)).ToList();
        if (chosen.Count != 1)
        {
            reading.Add(
                section.Place,
                chosen.Count == 0 ? $"{section.Title} does not say how to find the next page" : $"{section.Title} has both {string.Join(" and ", chosen.Select(style => style.Key.Name))}",
                chosen.Count == 0
                    ? $"add one of {string.Join(", ", PullKeys.Styles.Select(style => style.Key.Name))}"
                    : "keep the one that the API documents");
            return new Paging(PagingStyle.OnePage);
        }

        var more = More(section);
        var (link, links) = Link(section);
        var paging = new Paging(chosen[0].Value)
        {
            Places = link is not null ? [link] : [.. section.Pointers(PullKeys.Cursor), .. section.Pointers(PullKeys.Keyset)],
            AnswerHeader = section.Text(PullKeys.LinkHeader) ?? section.Text(PullKeys.CursorHeader),
            Targets = Targets(section),
            First = section.Whole(PullKeys.PageNumber) ?? section.Whole(PullKeys.Offset) ?? 0,
            PageSize = section.Whole(PullKeys.PageSize),
            SizeParameter = section.Text(PullKeys.SizeParameter),
            Total = section.Pointer(PullKeys.Total),
            TotalHeader = section.Text(PullKeys.TotalHeader),
            Pages = section.Pointer(PullKeys.Pages),
            PagesHeader = section.Text(PullKeys.PagesHeader),
            EndStatus = section.Whole(PullKeys.EndStatus),
            Link = links,
            More = more.At,
            MoreIs = more.Is,
            MostPages = section.Whole(PullKeys.MostPages) ?? Paging.DefaultMostPages,
            MostRows = section.Whole(PullKeys.MostRows) ?? Paging.DefaultMostRows,
            AllowMissing = section.Share(PullKeys.AllowMissing) ?? 0,
            OnePageMayLackIt = section.Switch(PullKeys.Optional) == true,
            Stream = section.Choice(PullKeys.Stream) is { } form ? Enum.Parse<StreamForm>(form, ignoreCase: true) : StreamForm.Lines,
            Delta = section.Pointer(PullKeys.Delta),
            DeltaParameter = section.Text(PullKeys.DeltaParameter),
            AgainWhenShifted = section.Choice(PullKeys.WhenShifted) == "again",
        };
        Check(section, paging, chosen[0].Key);
        return paging;
    }

    private (JsonPointer? At, LinkChoice? Choice) Link(SectionReader section)
    {
        if (section.Node(PullKeys.NextLink) is not YamlDotNet.RepresentationModel.YamlMappingNode)
            return (section.Pointer(PullKeys.NextLink), null);
        var inside = section.Inside(PullKeys.NextLink, reading)!;
        return (
            inside.Pointer(PullKeys.LinksAt),
            new LinkChoice(inside.Text(PullKeys.LinkRelation) ?? "next", inside.Text(PullKeys.LinkAddress) ?? "href"));
    }

    private (JsonPointer? At, string? Is) More(SectionReader section)
    {
        if (section.Node(PullKeys.More) is not YamlDotNet.RepresentationModel.YamlMappingNode)
            return (section.Pointer(PullKeys.More), null);
        var inside = section.Inside(PullKeys.More, reading)!;
        return (inside.Pointer(PullKeys.MoreAt), inside.Text(PullKeys.MoreIs));
    }

    private void Check(SectionReader section, Paging paging, Key chosen)
    {
        var sends = paging.Style is PagingStyle.Cursor or PagingStyle.Keyset or PagingStyle.PageNumber or PagingStyle.Offset;
        if (sends && paging.Targets.Count == 0)
            reading.Add(
                section.Place,
                $"{section.Title} has {chosen.Name} without parameter",
                "say what takes it: parameter: for the query, header:, body-at: for a place in body:, or placeholder: for one in the path");
        else if (paging.Places.Count > 1 && sends && paging.Targets.Count != paging.Places.Count)
            reading.Add(
                section.At(chosen),
                $"{section.Title} has {paging.Places.Count} places at {chosen.Name}, and {paging.Targets.Count} of parameter, header, body-at and placeholder",
                "give one for each place, in the same order: parameter: [after_time, after_id]");
        if (!sends && new[] { PullKeys.Parameter, PullKeys.SendHeader, PullKeys.BodyAt, PullKeys.Placeholder }.FirstOrDefault(section.Has) is { } target)
            reading.Add(
                section.At(target),
                $"{section.Title} has {target.Name} without cursor",
                $"{chosen.Name} sends nothing back; remove it, or page by cursor:, page-number:, offset: or keyset:");
        if (paging.SizeParameter is not null && paging.PageSize is null)
            reading.Add(
                section.At(PullKeys.SizeParameter),
                $"{section.Title} has size-parameter without page-size",
                "add page-size: with the number to ask for");
        if (paging is { Total: not null, TotalHeader: not null })
            reading.Add(
                section.At(PullKeys.TotalHeader),
                $"{section.Title} has both total and total-header",
                "keep the one that the API documents");
        if (paging.PagesHeader is not null && (paging.Pages is not null || paging.Style != PagingStyle.PageNumber))
            reading.Add(
                section.At(PullKeys.PagesHeader),
                $"{section.Title} has pages-header {(paging.Pages is not null ? "beside pages" : "without page-number")}",
                "keep the one that the API documents");
        if (paging.EndStatus is not null && !paging.IsCounted && paging.Style != PagingStyle.Keyset)
            reading.Add(
                section.At(PullKeys.EndStatus),
                $"{section.Title} has end-status beside {chosen.Name}",
                "only listings by page-number:, offset: or keyset: ask for a page that is not there; remove it");
        if (paging.Pages is not null && paging.Style != PagingStyle.PageNumber)
            reading.Add(
                section.At(PullKeys.Pages), $"{section.Title} has pages without page-number", "tell the end by total: or page-size:");
        if (paging.DeltaParameter is not null && paging.Delta is null)
            reading.Add(
                section.At(PullKeys.DeltaParameter),
                $"{section.Title} has changes-parameter without changes",
                "add changes: with the place of the token");
        if (paging.Delta is not null && paging.Style is not (PagingStyle.NextLink or PagingStyle.Cursor or PagingStyle.LinkHeader))
            reading.Add(
                section.At(PullKeys.Delta),
                $"{section.Title} has changes beside {chosen.Name}",
                "a delta token goes with next-link:, link-header: or cursor:");
        if (paging.AgainWhenShifted && !paging.IsCounted)
            reading.Add(
                section.At(PullKeys.WhenShifted),
                $"{section.Title} has when-shifted beside {chosen.Name}",
                "only listings by page-number: or offset: shift; remove it");
    }

    private static List<PositionTarget> Targets(SectionReader section) =>
    [
        .. section.Texts(PullKeys.Parameter).Select(item => new PositionTarget(PositionTargetKind.Parameter, item.Text)),
        .. section.Texts(PullKeys.SendHeader).Select(item => new PositionTarget(PositionTargetKind.Header, item.Text)),
        .. section.Pointers(PullKeys.BodyAt).Select(place => new PositionTarget(PositionTargetKind.Body, place.Text)),
        .. section.Texts(PullKeys.Placeholder).Select(item => new PositionTarget(PositionTargetKind.Placeholder, item.Text)),
    ];
}
