using System.Globalization;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>What an answer tells of the listing around its page: in headers, and by its status.</summary>
internal static class PageEnvelope
{
    /// <summary>Whether the status alone says that there is no such page (204: no content, RFC 9110, section 15.3.5).</summary>
    public static bool IsBehindTheLast(Paging paging, Answer answer) => answer.Status == 204 || answer.Status == paging.EndStatus;

    /// <summary>A scan with the counts that stand in headers.</summary>
    public static PageScan Counted(PageScan scan, Paging paging, Answer answer) => paging is { TotalHeader: null, PagesHeader: null } ? scan
        : scan with { Total = scan.Total ?? Number(answer, paging.TotalHeader), Pages = scan.Pages ?? Number(answer, paging.PagesHeader) };

    private static long? Number(Answer answer, string? header) =>
        header is not null && long.TryParse(answer.Header(header), NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? number
            : null;
}
