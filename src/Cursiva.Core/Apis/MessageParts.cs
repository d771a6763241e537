using System.Globalization;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;

namespace Cursiva.Core.Apis;

/// <summary>The components of a request and its answer that a signature may cover (RFC 9421 section 2).</summary>
/// <param name="answer">The answer; null while the request is signed.</param>
internal sealed class MessageParts(Request request, Answer? answer)
{
    /// <summary>The value of a component; null where the message has none.</summary>
    /// <param name="name">The name of a field in lower case, or of a derived component.</param>
    /// <param name="parameters">Its parameters as they are written; empty for none.</param>
    public string? Value(string name, string parameters)
    {
        var given = StructuredFields.Parameters(parameters);
        if (given.Keys.Except(["req", "name"]).FirstOrDefault() is { } unknown)
            throw new PayloadException($"the signature covers {name} with the parameter '{unknown}', which is not supported");
        var ofRequest = answer is null || given.ContainsKey("req");
        if (!name.StartsWith('@'))
            return ofRequest ? Field(name) : answer!.Header(name)?.Trim();
        if (!ofRequest)
            return name == "@status" ? answer!.Status.ToString(CultureInfo.InvariantCulture) : null;
        var address = request.SentTo;
        return name switch
        {
            "@method" => request.Method.Method,
            "@target-uri" => address.AbsoluteUri,
            "@authority" => address.Authority.ToLowerInvariant(),
            "@scheme" => address.Scheme,
            "@request-target" => address.PathAndQuery,
            "@path" => address.AbsolutePath,
            "@query" => address.Query.Length == 0 ? "?" : address.Query,
            "@query-param" => given.TryGetValue("name", out var wanted) ? Parameter(address, wanted) : null,
            _ => null,
        };
    }

    private string? Field(string name)
    {
        if (name == "content-type" && request.Body is not null)
            return request.BodyType;
        if (name == "content-length" && request.Body is { } body)
            return body.Length.ToString(CultureInfo.InvariantCulture);
        string[] values = [.. request.Headers.Where(header => header.Key.Equals(name, StringComparison.OrdinalIgnoreCase)).Select(
            header => header.Value.Trim())];
        return values.Length == 0 ? null : string.Join(", ", values);
    }

    // Several of one name cannot be told apart.
    private static string? Parameter(Uri address, string wanted)
    {
        string[] found = [.. address.Query.TrimStart('?').Split('&').Where(pair => Uri.UnescapeDataString(pair.Split('=')[0]) == wanted)];
        return found is [var only] ? only.IndexOf('=', StringComparison.Ordinal) is >= 0 and var at ? only[(at + 1)..] : "" : null;
    }
}
