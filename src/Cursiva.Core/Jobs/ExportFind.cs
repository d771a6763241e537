namespace Cursiva.Core.Jobs;

/// <summary>How a submitted export is found again in the API's own list, when the answer to its submission was lost.</summary>
/// <param name="Path">An RFC 6570 URI template appended to the API's base.</param>
/// <param name="Rows">Where the answer has the array of exports.</param>
/// <param name="Where">What the wanted one has, by place; nothing when the request itself narrows the list.</param>
/// <param name="Link">Where it has the address to ask.</param>
public sealed record ExportFind(string Path, JsonPointer Rows, IReadOnlyList<KeyValuePair<JsonPointer, Template>> Where, JsonPointer Link);
