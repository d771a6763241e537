namespace Cursiva.Core.Http;

/// <summary>One request, ready to be sent any number of times.</summary>
/// <param name="Form">Form parameters of a POST, or null for a request without a body.</param>
public sealed record Request(HttpMethod Method, Uri Uri, IReadOnlyList<KeyValuePair<string, string>> Headers, IReadOnlyList<KeyValuePair<string, string>>? Form = null)
{
    /// <summary>Whether the parameters go as a JSON object instead of a form.</summary>
    public bool FormAsJson { get; init; }

    /// <summary>Method and address, for people; secrets have no place in an address, and are masked where it is shown.</summary>
    public override string ToString() => $"{Method} {Uri.AbsoluteUri}";
}
