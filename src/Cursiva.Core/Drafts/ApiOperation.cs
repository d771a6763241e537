namespace Cursiva.Core.Drafts;

/// <summary>A listing that an API's description has.</summary>
/// <param name="Id">Its operationId; empty for none.</param>
/// <param name="Path">Its path, with placeholders in braces.</param>
/// <param name="Words">What the description says it is, on one line.</param>
/// <param name="Parameters">The names of its query parameters.</param>
/// <param name="Pages">Whether its parameters or its answer speak of pages.</param>
public sealed record ApiOperation(string Id, string Path, string Words, IReadOnlyList<string> Parameters, bool Pages)
{
    /// <summary>Its address at the first server of the description.</summary>
    public string Address(ApiDescription description) => description.Server.TrimEnd('/') + "/" + Path.TrimStart('/');
}
