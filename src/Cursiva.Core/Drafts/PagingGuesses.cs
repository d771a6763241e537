using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Pulls;

namespace Cursiva.Core.Drafts;

/// <summary>The ways in which a listing may go on, by what its first page shows; the likeliest first.</summary>
internal sealed class PagingGuesses(FirstPage page)
{
    private const string FarPage = "1000000";
    private const string FarRow = "100000000";

    /// <summary>Ways for which the page speaks, or its address.</summary>
    public IEnumerable<PagingGuess> Hinted =>
        [.. Links(), .. LinkArrays(), .. new CursorGuesses(page).All, .. Counted(fromHints: true), .. InPath()];

    /// <summary>Ways that are tried where nothing on the page speaks for one, and it looks as if more follows.</summary>
    public IEnumerable<PagingGuess> Blind =>
        TellsMoreAlone ? [.. Keysets(), .. Counted(fromHints: false)] : [.. Counted(fromHints: false), .. Keysets()];

    /// <summary>Ways that the API's description names.</summary>
    /// <param name="parameters">The query parameters of the listing.</param>
    public IEnumerable<PagingGuess> Described(IReadOnlyList<string> parameters)
    {
        foreach (var name in parameters.Where(name => PageNames.IsPage(PageMember.Plain(name))))
        {
            foreach (var first in new[] { 1, 0 })
                yield return Number("page-number", name, first, (first + 1).ToString(CultureInfo.InvariantCulture), FarPage);
        }

        foreach (var name in parameters.Where(name => PageNames.IsOffset(PageMember.Plain(name))))
        {
            foreach (var first in new[] { 0, 1 })
                yield return Number("offset", name, first, (first + page.Rows.Rows).ToString(CultureInfo.InvariantCulture), FarRow);
        }
    }

    /// <summary>Ways for which the page speaks though it names no next page: it may be the only one.</summary>
    public IEnumerable<PagingGuess> OfOnlyPage =>
    [
        .. page.Members.Where(
            member => member.Value.ValueKind == JsonValueKind.Null
                && PageNames.IsNext(member.PlainPlace)
                && (member.PlainName is "next" or "href"
                    || member.PlainName.EndsWith("link", StringComparison.Ordinal)
                    || member.PlainName.EndsWith("url", StringComparison.Ordinal)
                    || member.PlainName.EndsWith("uri", StringComparison.Ordinal)))
            .Select(member => new PagingGuess($"next-link: {YamlText.Scalar(member.At.Text)}", $"{member.At.Text} is null")),
        .. page.Members.Where(member => member.Value.ValueKind == JsonValueKind.Null && PageNames.IsCursor(member.PlainName))
            .Select(
                member => new PagingGuess(
                    $"cursor: {YamlText.Scalar(member.At.Text)}, parameter: {CursorGuesses.Likely(member.Name)}",
                    $"{member.At.Text} is null; a listing of several pages would show which parameter sends it")),
    ];

    /// <summary>Whether the page looks as if it were not the only one.</summary>
    public bool LooksCut => PageSigns.IsRound(page.Rows.Rows)
        || page.Members.Any(
            member => (PageNames.IsTotal(member.PlainName) && member.Number > page.Rows.Rows)
                || (PageNames.IsPages(member.PlainName) && member.Number > 1)
                || (PageNames.IsMore(member.PlainName) && IsTrue(member.Value)))
        || page.Headers.Any(
            header => PageNames.IsTotal(PageMember.Plain(header.Key))
                && long.TryParse(header.Value, CultureInfo.InvariantCulture, out var total)
                && total > page.Rows.Rows);

    // That more follows, and no number of anything: such listings go by the last row.
    private bool TellsMoreAlone =>
        page.Members.Any(member => PageNames.IsMore(member.PlainName) && IsTrue(member.Value))
            && !page.Members.Any(member => PageNames.IsTotal(member.PlainName) || PageNames.IsPages(member.PlainName));

    /// <summary>Whether a value tells that something is so, in whatever words.</summary>
    public static bool IsTrue(JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.True => true,
        JsonValueKind.Number => value.GetRawText() == "1",
        JsonValueKind.String => value.GetString()!.ToLowerInvariant() is "true" or "y" or "yes" or "1",
        _ => false,
    };

    private IEnumerable<PagingGuess> Links()
    {
        if (page.Headers.FirstOrDefault(header => header.Key.Equals("Link", StringComparison.OrdinalIgnoreCase)).Value is { } header
            && LinkHeader.Find(header, "next", page.Address.Whole) is not null)
            yield return new PagingGuess("link-header: next", "the Link header has rel=next");
        foreach (var member in page.Members.Where(
            member => member.Value.ValueKind == JsonValueKind.String
                && PageNames.IsNext(member.PlainPlace)
                && IsLink(member.Value.GetString()!)))
            yield return new PagingGuess($"next-link: {YamlText.Scalar(member.At.Text)}", $"{member.At.Text} is a link");
    }

    private IEnumerable<PagingGuess> LinkArrays()
    {
        foreach (var member in page.Members.Where(member => member.Value.ValueKind == JsonValueKind.Array))
        {
            var next = member.Value.EnumerateArray().FirstOrDefault(
                link => link.ValueKind == JsonValueKind.Object
                    && link.TryGetProperty("rel", out var rel)
                    && rel.ValueKind == JsonValueKind.String
                    && PageNames.IsNext(rel.GetString()!.ToLowerInvariant()));
            if (next.ValueKind != JsonValueKind.Object
                || PageNames.LinkAddresses.FirstOrDefault(name => next.TryGetProperty(name, out _)) is not { } address)
                continue;
            var relation = next.GetProperty("rel").GetString()!;
            yield return new PagingGuess(
                $"next-link: {{ at: {YamlText.Scalar(member.At.Text)}{(relation == "next" ? "" : $", relation: {YamlText.Scalar(relation)}")}{(address == "href" ? "" : $", address: {address}")} }}",
                $"{member.At.Text} has a link with rel {relation}");
        }
    }

    private IEnumerable<PagingGuess> Counted(bool fromHints)
    {
        var given = page.Address.Query.Select(pair => pair.Key).ToHashSet(StringComparer.Ordinal);
        var told = page.Members.Where(member => member.Number is not null).ToList();
        var pages = told.Where(member => PageNames.IsPage(member.PlainName) && member.Number is 0 or 1).Select(member => member.Name);
        var offsets = told.Where(member => PageNames.IsOffset(member.PlainName) && member.Number is 0 or 1).Select(member => member.Name);
        var hinted = (
            Pages: given.Where(name => PageNames.IsPage(PageMember.Plain(name))).Concat(With(pages, PageNames.PageParameters)).ToList(),
            Offsets: given.Where(name => PageNames.IsOffset(PageMember.Plain(name)))
                .Concat(With(offsets, PageNames.OffsetParameters))
                .ToList());
        foreach (var name in fromHints ? hinted.Pages.Distinct() : PageNames.PageParameters.Take(3).Except(hinted.Pages))
        {
            foreach (var first in new[] { 1, 0 })
                yield return Number("page-number", name, first, (first + 1).ToString(CultureInfo.InvariantCulture), FarPage);
        }

        foreach (var name in fromHints ? hinted.Offsets.Distinct() : PageNames.OffsetParameters.Take(4).Except(hinted.Offsets))
        {
            foreach (var first in new[] { 0, 1 })
                yield return Number("offset", name, first, (first + page.Rows.Rows).ToString(CultureInfo.InvariantCulture), FarRow);
        }
    }

    // A page that tells its own number takes one, under that name or under a usual one.
    private static IEnumerable<string> With(IEnumerable<string> told, IReadOnlyList<string> usual) =>
        told.ToList() is { Count: > 0 } names ? names.Concat(usual) : [];

    private static PagingGuess Number(string key, string parameter, int first, string second, string far) => new(
        $"{key}: {first}, parameter: {YamlText.Scalar(parameter)}", $"{parameter}={second} gives other rows")
    {
        Without = [parameter],
        Look = KeyValuePair.Create(parameter, second),
        FarBehind = far,
    };

    // The number of the page at the end of the path.
    private IEnumerable<PagingGuess> InPath()
    {
        var segments = page.Address.Path.Split('/');
        if (segments[^1] is not ("0" or "1"))
            yield break;
        yield return new PagingGuess($"page-number: {segments[^1]}, placeholder: page", "the number in the path leads to other rows")
        {
            Path = string.Join('/', segments[..^1]) + "/{page}",
            FarBehind = FarPage,
        };
    }

    private IEnumerable<PagingGuess> Keysets()
    {
        if (page.Seen.Count == 0 || page.Seen[^1].ValueKind != JsonValueKind.Object)
            yield break;
        var last = page.Seen[^1];
        if (last.EnumerateObject()
            .Where(
                member => member.Value.ValueKind is JsonValueKind.Number or JsonValueKind.String
                    && PageNames.IsKey(PageMember.Plain(member.Name)))
            .Select(member => member.Name)
            .OrderBy(name => PageMember.Plain(name) == "id" ? 0 : 1)
            .FirstOrDefault() is not { } key)
            yield break;
        var pointer = Jobs.JsonPointer.ToField(key).Text;
        foreach (var parameter in PageNames.KeyParameters)
            yield return new PagingGuess(
                $"keyset: {YamlText.Scalar(pointer)}, parameter: {parameter}", $"{parameter} sends {pointer} of the last row")
            {
                Look = KeyValuePair.Create(parameter, last.GetProperty(key).ToString()),
            };
    }

    private static bool IsLink(string text) =>
        text.Length > 0
            && (text[0] is '/' or '?'
                || AskedAddress.Is(text)
                || (text.Contains('?', StringComparison.Ordinal)
                    && text.Contains('=', StringComparison.Ordinal)
                    && !text.Contains(' ', StringComparison.Ordinal)));
}
