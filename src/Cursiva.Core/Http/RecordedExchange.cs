using Cursiva.Core.Secrets;

namespace Cursiva.Core.Http;

/// <summary>A request and its answer, as a recording has them.</summary>
/// <param name="Method">The method of the request.</param>
/// <param name="Uri">What was asked, secrets masked.</param>
/// <param name="Asked">The body of the request as text; null for none.</param>
/// <param name="Status">The status code; 0 where no answer came.</param>
/// <param name="Headers">The headers of the answer.</param>
/// <param name="Body">The body of the answer, decoded; null where the recording leaves it out.</param>
/// <param name="Comment">What the recording says of it; empty for nothing.</param>
public sealed partial record RecordedExchange(
    string Method, Uri Uri, string? Asked, int Status, IReadOnlyList<KeyValuePair<string, string>> Headers, byte[]? Body, string Comment)
{
    private static readonly string[] s_ofTheWire = ["Content-Encoding", "Content-Length", "Transfer-Encoding", "Connection"];

    /// <summary>Whether the body stands as it was sent, compressed.</summary>
    public bool IsPacked { get; init; }

    /// <summary>Whether it is a request for tokens.</summary>
    public bool IsSignIn { get; init; }

    /// <summary>When it began.</summary>
    public DateTimeOffset Began { get; init; }

    /// <summary>What tells one request from others, whatever its credentials are.</summary>
    public string Key => KeyOf(Method, Uri, Asked);

    /// <summary>What tells a request from others: method, address and body, with masked secrets.</summary>
    public static string KeyOf(string method, Uri address, string? body) =>
        $"{method.ToUpperInvariant()} {WithoutSecrets(Uri.UnescapeDataString(ShownAddress.Of(address)))}{(string.IsNullOrEmpty(body) ? "" : "\n" + body)}";

    /// <summary>The answer, as if it came again.</summary>
    public HttpResponseMessage Answer()
    {
        var message = new HttpResponseMessage((System.Net.HttpStatusCode)Status) { Content = new ByteArrayContent(Body ?? []) };
        foreach (var (name, value) in Headers.Where(
            header => (IsPacked && header.Key.Equals("Content-Encoding", StringComparison.OrdinalIgnoreCase))
                || !s_ofTheWire.Contains(header.Key, StringComparer.OrdinalIgnoreCase)))
        {
            // What was recorded as text is UTF-8 again, whatever it was on the wire.
            if (!message.Headers.TryAddWithoutValidation(name, value))
                message.Content.Headers.TryAddWithoutValidation(
                    name,
                    name.Equals("Content-Type", StringComparison.OrdinalIgnoreCase) && System.Text.Unicode.Utf8.IsValid(Body)
                        ? Charset().Replace(value, "")
                        : value);
        }

        return message;
    }

    // A parameter that is a secret stands in no recorded address, or is masked there.
    private static string WithoutSecrets(string address)
    {
        var query = address.IndexOf('?', StringComparison.Ordinal);
        if (query < 0)
            return address;
        var kept = address[(query + 1)..].Split('&').Where(part => !part.EndsWith("=" + Redactor.Mask, StringComparison.Ordinal)).ToList();
        return kept.Count == 0 ? address[..query] : $"{address[..query]}?{string.Join('&', kept)}";
    }

    [System.Text.RegularExpressions.GeneratedRegex(@"\s*;\s*charset=[^;]*", System.Text.RegularExpressions.RegexOptions.IgnoreCase)]
    private static partial System.Text.RegularExpressions.Regex Charset();
}
