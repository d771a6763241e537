using System.Globalization;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Writes;

/// <summary>
/// Sends a file in pieces, each with Content-Range (RFC 9110 section 14.4). The other side says how far it is with a header Range in an
/// answer that is not the last; one that begins somewhere asks with <c>bytes */TOTAL</c>.
/// </summary>
internal sealed class PieceSender(ApiClient client, ApiRequest request, WriteStep step, string path, long length)
{
    // It says how far it is and gets no further.
    private const int MostWithoutProgress = 3;

    /// <returns>The last answer.</returns>
    /// <exception cref="Refusals.RefusedException">The other side refused a piece.</exception>
    /// <exception cref="ItemRefusedException">It gets no further.</exception>
    public async Task<Answer> SendAsync(bool begun, Func<Answer, bool> expects, CancellationToken cancel)
    {
        long at = 0;
        if (begun)
        {
            var asked = await AskAsync(expects, cancel);
            if (IsLast(asked))
                return asked;
            using (asked)
                at = NextOf(asked, 0);
        }

        for (var still = 0; ; still++)
        {
            var size = Math.Min(step.PieceSize, length - at);
            var answer = await PutAsync(at, size, expects, cancel);
            if (IsLast(answer))
                return answer;
            using (answer)
            {
                // It has another part of the file than was thought.
                using var asked = answer.Status == 416 ? await AskAsync(expects, cancel) : null;
                if (asked is not null && IsLast(asked))
                    return await AskAsync(expects, cancel);
                var next = NextOf(asked ?? answer, at + size);
                still = next > at ? 0 : still;
                if (still >= MostWithoutProgress || next > length || (next == length && next == at))
                    throw new ItemRefusedException($"step '{step.Name}' does not get past byte {at:N0} of {length:N0}");
                at = next;
            }
        }
    }

    private Task<Answer> AskAsync(Func<Answer, bool> expects, CancellationToken cancel) =>
        Send(request with { Parts = [], OwnHeaders = [new("Content-Range", $"bytes */{Text(length)}")] }, expects, cancel);

    private Task<Answer> PutAsync(long at, long size, Func<Answer, bool> expects, CancellationToken cancel) =>
        Send(
            request with
            {
                Parts = [BodyPart.OfFile(path, at, size)],
                OwnHeaders = [new("Content-Range", length == 0 ? "bytes */0" : $"bytes {Text(at)}-{Text(at + size - 1)}/{Text(length)}")],
            },
            expects,
            cancel);

    private Task<Answer> Send(ApiRequest piece, Func<Answer, bool> expects, CancellationToken cancel) =>
        client.SendAsync(piece with { Expects = answer => answer.Status is 308 or 416 || expects(answer) }, cancel);

    // 308 and 202 say that more is wanted; 416 that it was another piece.
    private static bool IsLast(Answer answer) => answer.Status is not (308 or 202 or 416);

    private static long NextOf(Answer answer, long otherwise)
    {
        var range = answer.Header("Range");
        if (range is null)
            return answer.Status == 202 ? otherwise : 0;
        return long.TryParse(range[(range.LastIndexOf('-') + 1)..], NumberStyles.None, CultureInfo.InvariantCulture, out var last)
            ? last + 1
            : otherwise;
    }

    private static string Text(long number) => number.ToString(CultureInfo.InvariantCulture);
}
