namespace Cursiva.Core.Deliveries;

/// <summary>What a file of rows has in it.</summary>
/// <param name="Columns">Its columns, in their order.</param>
/// <param name="Count">Its rows.</param>
public sealed record TableManifest(IReadOnlyList<TableColumn> Columns, long Count);
