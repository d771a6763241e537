using System.Text;

namespace Cursiva.Core.Drafts;

/// <summary>What a pull of a draft says.</summary>
/// <param name="Rows">The value of <c>rows:</c>.</param>
/// <param name="Paging">How it goes on.</param>
internal sealed record DraftedPull(AskedAddress Address, string Rows, PagingGuess Paging)
{
    /// <summary>The JSON body of a POST; null for a GET.</summary>
    public string? Body { get; init; }

    /// <summary>Further query parameters.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Further { get; init; } = [];

    /// <summary>Further keys of <c>paging:</c>.</summary>
    public IReadOnlyList<string> PagingKeys { get; init; } = [];

    /// <summary>The path as the job has it.</summary>
    public string Path => Paging.Path ?? Address.Path;

    /// <summary>The query parameters as the job has them: those that paging sends are omitted.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Query =>
        [.. Address.Query.Where(pair => !Paging.Without.Contains(pair.Key) && Further.All(further => further.Key != pair.Key)), .. Further];

    /// <summary>The value of <c>paging:</c>; empty for none.</summary>
    public string PagingText =>
        string.Join(", ", new[] { Paging.Yaml }.Concat(PagingKeys).Where(part => part.Length > 0)) is { Length: > 0 } keys
            ? $"{{ {keys} }}"
            : "";

    /// <summary>The request line of the pull.</summary>
    public string RequestText => $"{(Body is null ? "get" : "post")}: {YamlText.Scalar(Path)}";

    /// <summary>A job with this pull alone, that tries little and waits little.</summary>
    public string TrialText(AskedSignIn signIn)
    {
        var text = new StringBuilder("cursiva: 1\n");
        AskedJob.Services(text, Address, signIn, [("attempts: 2", ""), ("timeout: 60s", "")]);
        text.Append($"pulls:\n  {Address.Name}:\n    {RequestText}\n");
        if (Query.Count > 0)
            text.Append($"    query: {{ {AskedJob.QueryOf(Query)} }}\n");
        if (Body is not null)
            text.Append($"    body: {JsonText.Literal(Body)}\n");
        if (!Paging.IsStream || Rows != "\"\"")
            text.Append($"    rows: {Rows}\n");
        if (PagingText.Length > 0)
            text.Append($"    paging: {PagingText}\n");
        return text.ToString();
    }
}
