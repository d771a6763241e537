using System.Globalization;
using System.Text.Json;

namespace Cursiva.Core.Drafts;

/// <summary>Finds where pages tell how many rows or pages there are, or that more follows.</summary>
internal static class CountSearch
{
    /// <summary>The keys of <c>paging:</c> for what is told, the surest first.</summary>
    /// <param name="first">The members of the first page.</param>
    /// <param name="second">The members of the second one.</param>
    /// <param name="rows">Rows of both, one after the other.</param>
    /// <param name="counts">Whether pages or rows are counted: then pages and more are of use, too.</param>
    public static IReadOnlyList<string> Keys(
        IReadOnlyList<PageMember> first,
        IReadOnlyList<PageMember> second,
        KeptAnswer firstAnswer,
        KeptAnswer secondAnswer,
        (int First, int Second) rows,
        bool counts)
    {
        var both = rows.First + rows.Second;
        bool IsSame(PageMember member) => second.Any(other => other.At.Text == member.At.Text && other.Number == member.Number);
        var totals = first.Where(member => PageNames.IsTotal(member.PlainName) && member.Number >= both && IsSame(member))
            .OrderByDescending(
            member => member.PlainName.Contains("total", StringComparison.Ordinal));
        if (totals.FirstOrDefault() is { } total)
            return [$"total: {YamlText.Scalar(total.At.Text)}"];
        if (Header(firstAnswer, secondAnswer, PageNames.IsTotal, both) is { } totalHeader)
            return [$"total-header: {YamlText.Scalar(totalHeader)}"];
        if (!counts)
            return [];
        if (first.FirstOrDefault(
            member => (PageNames.IsPages(member.PlainName) || PageNames.IsPages(member.PlainPlace))
                && member.Number >= 2
                && IsSame(member)) is { } pages)
            return [$"pages: {YamlText.Scalar(pages.At.Text)}"];
        if (Header(firstAnswer, secondAnswer, PageNames.IsPages, 2) is { } pagesHeader)
            return [$"pages-header: {YamlText.Scalar(pagesHeader)}"];
        return first.FirstOrDefault(member => PageNames.IsMore(member.PlainName) && PagingGuesses.IsTrue(member.Value)) is { } more
            ? [More(more)]
            : [];
    }

    /// <summary>The key for a place that tells that more follows.</summary>
    private static string More(PageMember more) => more.Value.ValueKind is JsonValueKind.True or JsonValueKind.Number
        ? $"more: {YamlText.Scalar(more.At.Text)}"
        : $"more: {{ at: {YamlText.Scalar(more.At.Text)}, is: {YamlText.Quoted(more.Value.GetString()!)} }}";

    private static string? Header(KeptAnswer first, KeptAnswer second, Func<string, bool> isNamed, long least) => first.Headers
        .Where(
            header => isNamed(Bare(header.Key))
                && long.TryParse(header.Value, NumberStyles.None, CultureInfo.InvariantCulture, out var told)
                && told >= least
                && second.Headers.Any(other => other.Key == header.Key && other.Value == header.Value))
        .Select(header => header.Key).FirstOrDefault();

    private static string Bare(string header) =>
        PageMember.Plain(header.StartsWith("X-", StringComparison.OrdinalIgnoreCase) ? header[2..] : header);
}
