namespace Cursiva.Core.Jobs;

/// <summary>The request of a pull, with placeholders that each strand fills in.</summary>
/// <param name="Method">GET or POST.</param>
/// <param name="Path">An RFC 6570 URI template appended to the API's base; or, for a link, an address with placeholders.</param>
public sealed record PullRequest(string Method, string Path, bool IsLink = false)
{
    /// <summary>
    /// Query parameters; a parameter may stand several times, one whose value is not known is omitted, and a value may be a secret source.
    /// </summary>
    public IReadOnlyList<KeyValuePair<string, DeclaredValue>> Query { get; init; } = [];

    /// <summary>The query parameters that the job writes as a list: a value that is a list is sent item by item.</summary>
    public IReadOnlySet<string> Repeated { get; init; } = new HashSet<string>();

    /// <summary>Headers; a value may be a secret source.</summary>
    public IReadOnlyList<KeyValuePair<string, DeclaredValue>> Headers { get; init; } = [];

    /// <summary>The body; null for none.</summary>
    public DeclaredBody? Body { get; init; }

    /// <summary>Whether the body goes as a form instead of JSON.</summary>
    public bool BodyIsForm { get; init; }

    /// <summary>The media types that are asked for.</summary>
    public string Accept { get; init; } = "application/json";
}
