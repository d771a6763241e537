using Cursiva.Core.Http;

namespace Cursiva.Core.Runs;

/// <summary>What an answer has beside its body, on its way from one machine to another.</summary>
/// <param name="Status">The status code.</param>
/// <param name="Headers">The header fields of the answer.</param>
/// <param name="ContentHeaders">The header fields about the body.</param>
/// <param name="VerifiedBy">The key by which it was verified; null where it was not.</param>
/// <param name="IsStream">Whether the body is read as a stream.</param>
internal sealed record PageAnswer(
    int Status,
    IReadOnlyList<KeyValuePair<string, string>> Headers,
    IReadOnlyList<KeyValuePair<string, string>> ContentHeaders,
    string? VerifiedBy,
    bool IsStream)
{
    // The body may be another one than was sent: unpacked, or decrypted.
    private const string Length = "Content-Length";

    /// <summary>What is told of an answer.</summary>
    public static PageAnswer Of(Answer answer) => new(
        answer.Status,
        [.. answer.Headers.SelectMany(header => header.Value.Select(value => KeyValuePair.Create(header.Key, value)))],
        [.. (answer.ContentHeaders ?? Enumerable.Empty<KeyValuePair<string, IEnumerable<string>>>())
            .Where(header => header.Key != Length).SelectMany(
                header => header.Value.Select(value => KeyValuePair.Create(header.Key, value)))],
        answer.VerifiedBy,
        answer.Stream is not null);

    /// <summary>The answer with its body.</summary>
    public Answer With(ReadOnlySpan<byte> body, Stream? stream)
    {
        var message = new HttpResponseMessage { Content = new ByteArrayContent([]) };
        foreach (var (name, value) in Headers)
            message.Headers.TryAddWithoutValidation(name, value);
        foreach (var (name, value) in ContentHeaders)
            message.Content.Headers.TryAddWithoutValidation(name, value);
        return new Answer(Status, message.Headers, message.Content.Headers, PageBuffer.Of(body), TimeSpan.Zero, stream)
        {
            VerifiedBy = VerifiedBy,
        };
    }
}
