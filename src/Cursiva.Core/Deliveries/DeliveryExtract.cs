namespace Cursiva.Core.Deliveries;

/// <summary>What a delivery takes from the database of a run, besides the files of reports.</summary>
/// <param name="Rows">The rows of its table; null for none.</param>
/// <param name="Recipients">Who receives it, from a query: the value of a file, or null for every one, and an address.</param>
public sealed record DeliveryExtract(TableExtract? Rows, IReadOnlyList<KeyValuePair<string?, string>> Recipients);
