namespace Cursiva.Core.Deliveries;

/// <summary>The rows of a query in a file, as a database takes them: CSV without a header, null as nothing between the commas.</summary>
/// <param name="Path">The file.</param>
/// <param name="Manifest">What is in it.</param>
public sealed record TableExtract(string Path, TableManifest Manifest);
