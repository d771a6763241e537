using System.Text.Json.Nodes;
using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>A request of a strand, before it is sent.</summary>
/// <param name="AddressOf">The address with values for the placeholders that paging fills in.</param>
internal sealed record AskedPage(
    HttpMethod Method,
    Func<IReadOnlyDictionary<string,
    string>,
    Uri> AddressOf,
    IReadOnlyList<KeyValuePair<string,
    string>> Headers,
    JsonNode? Body)
{
    /// <summary>Values of placeholders, by name.</summary>
    public IReadOnlyDictionary<string, string> Placed { get; init; } = new Dictionary<string, string>();

    /// <summary>Query parameters to set.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Parameters { get; init; } = [];

    /// <summary>The address of a link that is followed as it stands; null for the request of the job.</summary>
    public Uri? Link { get; init; }

    public Uri Address =>
        Link ?? Parameters.Aggregate(AddressOf(Placed), (address, parameter) => AddressQuery.With(address, parameter.Key, parameter.Value));
}
