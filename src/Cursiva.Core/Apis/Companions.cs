using Cursiva.Core.Jobs;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Apis;

/// <summary>What goes along with every request to an API's own origin: headers, and query parameters that are secrets.</summary>
/// <param name="Headers">The headers, secrets revealed.</param>
/// <param name="SecretQuery">Query parameters that stand in no address that is shown or kept; they are added when a request is
/// sent.</param>
public sealed record Companions(
    IReadOnlyList<KeyValuePair<string, string>> Headers, IReadOnlyList<KeyValuePair<string, string>> SecretQuery)
{
    /// <summary>No headers and no query parameters.</summary>
    public static Companions None { get; } = new([], []);

    /// <summary>Reads the secrets of an API's declaration.</summary>
    /// <exception cref="Refusals.RefusedException">A secret is missing.</exception>
    public static async Task<Companions> OfAsync(Api api, SecretSources secrets, CancellationToken cancel)
    {
        var headers = new List<KeyValuePair<string, string>>();
        foreach (var (name, value) in api.Headers)
            headers.Add(new(name, (await secrets.ReadAsync(value, cancel)).Reveal()));
        var query = new List<KeyValuePair<string, string>>();
        foreach (var (name, value) in api.QueryParameters.Where(pair => pair.Value.IsSource))
            query.Add(new(name, (await secrets.ReadAsync(value, cancel)).Reveal()));
        return new Companions(headers, query);
    }
}
