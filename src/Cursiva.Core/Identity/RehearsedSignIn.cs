using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>
/// Signs nobody in: a rehearsal answers requests whoever asks. What jobs fill in from token answers is taken from the recording.
/// </summary>
/// <param name="recording">The recorded exchanges.</param>
public sealed class RehearsedSignIn(Recording recording)
{
    /// <summary>A token that nobody checks.</summary>
    /// <param name="fields">The places of the token endpoint's answer that the job uses, by placeholder.</param>
    public AccessToken TokenFor(IEnumerable<string> fields) => new(new Secrets.SecretText("rehearsed"), [], DateTimeOffset.MaxValue)
    {
        Fields = fields.Select(name => KeyValuePair.Create(name, Field(name))).Where(pair => pair.Value is not null).ToDictionary(
            pair => pair.Key, pair => pair.Value!, StringComparer.Ordinal),
    };

    private string? Field(string placeholder) =>
        JsonPointer.TryParse(placeholder[Math.Max(0, placeholder.IndexOf('/', StringComparison.Ordinal))..]) is not { } pointer ? null
            : recording.Exchanges
                .Where(exchange => exchange.Method == "POST" && exchange.Body is not null)
                .Select(exchange => Find(exchange.Body!, pointer))
                .FirstOrDefault(
                value => value is not null);

    private static string? Find(byte[] body, JsonPointer pointer)
    {
        try
        {
            using var document = JsonDocument.Parse(body);
            return pointer.Find(document.RootElement)?.ToString();
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
