using Cursiva.Core.Http;

namespace Cursiva.Core.Drafts;

/// <summary>An answer that can be read any number of times.</summary>
/// <param name="Address">What was asked.</param>
/// <param name="Status">The status code.</param>
/// <param name="Headers">The headers, by name, those of the body among them.</param>
/// <param name="ContentType">The media type without parameters, lower case; empty when there is none.</param>
/// <param name="Body">The body, decoded.</param>
internal sealed record KeptAnswer(
    Uri Address, int Status, IReadOnlyList<KeyValuePair<string, string>> Headers, string ContentType, byte[] Body)
{
    /// <summary>Keeps an answer, whose body is not consumed.</summary>
    public static KeptAnswer Of(Uri address, Answer answer) => new(
        address,
        answer.Status,
        [.. answer.Headers.Concat(answer.ContentHeaders ?? (IEnumerable<KeyValuePair<string, IEnumerable<string>>>)[]).Select(
            header => KeyValuePair.Create(header.Key, string.Join(", ", header.Value)))],
        answer.ContentType,
        answer.Body.Content.ToArray());

    /// <summary>The answer as if it came again.</summary>
    public Answer Again()
    {
        using var message = new HttpResponseMessage((System.Net.HttpStatusCode)Status) { Content = new ByteArrayContent(Body) };
        foreach (var (name, value) in Headers)
        {
            if (!message.Headers.TryAddWithoutValidation(name, value) && !name.Equals("Content-Length", StringComparison.OrdinalIgnoreCase))
                message.Content.Headers.TryAddWithoutValidation(name, value);
        }

        return new Answer(Status, message.Headers, message.Content.Headers, PageBuffer.Of(Body), TimeSpan.Zero);
    }
}
