namespace Cursiva.Core.Jobs;

/// <summary>The names that the placeholders of a pull's request use.</summary>
internal sealed class NamesOfRequest(Pull pull)
{
    public IReadOnlySet<string> All { get; } = new HashSet<string>(
        [
            .. pull.Request.IsLink ? Template.TryParse(pull.Request.Path, out _)?.Names ?? [] : PathTemplate.Names(
                pull.Request.Path, out _),
            .. pull.Opens is { } opens ? PathTemplate.Names(opens.Path, out _) : [],
            .. pull.Request.Query.Concat(pull.Request.Headers).SelectMany(pair => pair.Value.Names),
            .. pull.DownloadTo?.Names ?? [],
            .. pull.Request.Body?.Names ?? [],
        ],
        StringComparer.Ordinal);
}
