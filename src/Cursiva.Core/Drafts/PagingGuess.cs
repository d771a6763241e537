namespace Cursiva.Core.Drafts;

/// <summary>A way in which a listing may go on.</summary>
/// <param name="Yaml">The keys of <c>paging:</c>, without braces; empty for one page.</param>
/// <param name="Words">What speaks for it, for people.</param>
internal sealed record PagingGuess(string Yaml, string Words)
{
    /// <summary>The listing has one page.</summary>
    public static PagingGuess OnePage { get; } = new("", "");

    /// <summary>The path, where a placeholder of it takes the page; null for the path that was given.</summary>
    public string? Path { get; init; }

    /// <summary>Query parameters that paging sends by itself.</summary>
    public IReadOnlyList<string> Without { get; init; } = [];

    /// <summary>
    /// The parameter and value that ask for the second page alone, to find out with one request whether the API takes it; null for none.
    /// </summary>
    public KeyValuePair<string, string>? Look { get; init; }

    /// <summary>The value of the counted parameter far behind the end; null where nothing is counted.</summary>
    public string? FarBehind { get; init; }

    /// <summary>Whether the listing is one stream.</summary>
    public bool IsStream { get; init; }

    /// <summary>Whether pages or rows are counted, so that a total can end the listing.</summary>
    public bool Counts => FarBehind is not null;
}
