using System.Globalization;
using System.IO.Hashing;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Asks an API whether a listing of one page is as it was in the last good run (RFC 9110 section 13.1.2): its rows are taken over from
/// there
/// then. The ETag is kept behind a digest of what was asked, since it means nothing for another address.
/// </summary>
internal sealed class Unchanged
{
    private readonly LandedPage _page;
    private readonly string _tag;

    private Unchanged(LandedPage page, string tag, byte[] lines)
    {
        (_page, _tag, Lines) = (page, tag, lines);
    }

    /// <summary>The rows as they were, as JSON lines.</summary>
    public byte[] Lines { get; }

    public int Rows => _page.Rows;

    public long? Told => _page.Told;

    /// <summary>Why the listing ended then.</summary>
    public Ending? Ended => Ending.Of(_page.Ended);

    /// <summary>What is known of what a request asks for; null when that has to be asked for.</summary>
    public static Unchanged? Of(StrandRun run, ApiRequest request)
    {
        if (request.Method != HttpMethod.Get)
            return null;
        var pages = run.Services.Past.Tagged(run.Pull);
        var asked = Digest(request);
        return pages.Of(run.Strand.Values.ToJson()) is { ETag: { } kept } page
            && kept.StartsWith(asked, StringComparison.Ordinal)
            && pages.Read(
            page) is { } lines
            ? new Unchanged(page, kept[asked.Length..], lines)
            : null;
    }

    /// <summary>The ETag of an answer as it is kept; null without one.</summary>
    public static string? Kept(ApiRequest request, Answer answer) =>
        request.Method == HttpMethod.Get && answer.Header("ETag") is { Length: > 0 } tag ? Digest(request) + tag : null;

    /// <summary>The ETag as it is kept, for an answer that does not repeat it.</summary>
    public string Kept(ApiRequest request) => Digest(request) + _tag;

    /// <summary>The request, made conditional.</summary>
    public ApiRequest Ask(ApiRequest request) =>
        request with { OwnHeaders = [.. request.OwnHeaders, new("If-None-Match", _tag)], Expects = Says };

    /// <summary>Whether an answer says that nothing has changed.</summary>
    public static bool Says(Answer answer) => answer.Status == 304;

    private static string Digest(ApiRequest request) =>
        XxHash64.HashToUInt64(Encoding.UTF8.GetBytes($"{request.Uri.AbsoluteUri} {request.Accept}")).ToString(
            "x16", CultureInfo.InvariantCulture) + " ";
}
