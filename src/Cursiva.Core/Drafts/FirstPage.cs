using System.Text.Json;

namespace Cursiva.Core.Drafts;

/// <summary>What is known of a listing after one answer.</summary>
/// <param name="Rows">Where its rows are taken to be.</param>
/// <param name="Members">What stands beside them.</param>
/// <param name="Headers">The headers of the answer, by name.</param>
/// <param name="Seen">Its first rows, as they would land.</param>
/// <param name="Body">The JSON body that was sent; null for none.</param>
internal sealed record FirstPage(
    AskedAddress Address,
    RowsPlace Rows,
    IReadOnlyList<PageMember> Members,
    IReadOnlyList<KeyValuePair<string,
    string>> Headers,
    IReadOnlyList<JsonElement> Seen,
    JsonElement? Body);
