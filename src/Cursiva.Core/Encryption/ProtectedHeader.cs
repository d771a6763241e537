using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Encryption;

/// <summary>The protected header of a JWE or JWS (RFC 7516 section 4, RFC 7515 section 4).</summary>
internal sealed class ProtectedHeader : IDisposable
{
    private readonly JsonDocument _document;

    private ProtectedHeader(string text, JsonDocument document) => (Text, _document) = (text, document);

    /// <summary>The header as JSON.</summary>
    public string Text { get; }

    /// <summary>Reads a header. Extensions that must be understood (crit) are none of ours.</summary>
    /// <exception cref="PayloadException">It is not a header, has a member twice, or has a critical extension.</exception>
    public static ProtectedHeader Read(string encoded)
    {
        var text = Encoding.UTF8.GetString(Base64.FromUrl(encoded));
        try
        {
            var document = JsonDocument.Parse(text, new JsonDocumentOptions { AllowDuplicateProperties = false });
            var header = new ProtectedHeader(text, document);
            if (document.RootElement.ValueKind != JsonValueKind.Object)
                throw new PayloadException("its header is not a JSON object");
            if (header.Has("crit"))
                throw new PayloadException(
                    $"its header has an extension that must be understood (crit {document.RootElement.GetProperty("crit").GetRawText()}), and is not supported");
            return header;
        }
        catch (JsonException error)
        {
            throw new PayloadException("its header is not a JSON object, or has a member twice", error);
        }
    }

    /// <summary>The key that a header means.</summary>
    /// <exception cref="PayloadException">There is none of that id, or several and no id.</exception>
    public static ExchangeKey Choose(IReadOnlyList<ExchangeKey> keys, string? id)
    {
        if (keys is [var only] && (only.Id is null || id is null || only.Id == id))
            return only;
        return keys.FirstOrDefault(key => key.Id is not null && key.Id == id)
            ?? throw new PayloadException(
                id is null
                    ? "its header has no key id (kid), and there are several keys"
                    : $"there is no key with the id '{id}'; there are {string.Join(", ", keys.Select(key => key.Id ?? "one without an id"))}");
    }

    /// <summary>The certificates that it brings, in base64 of their DER, the signer's first (x5c); empty for none.</summary>
    public IReadOnlyList<string> Certificates() => _document.RootElement.TryGetProperty(
        "x5c", out var list) && list.ValueKind == JsonValueKind.Array
        ? [.. list.EnumerateArray().Where(one => one.ValueKind == JsonValueKind.String).Select(one => one.GetString()!)]
        : [];

    public bool Has(string name) => _document.RootElement.TryGetProperty(name, out _);

    public string? Member(string name) =>
        _document.RootElement.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString() : null;

    public void Dispose() => _document.Dispose();
}
