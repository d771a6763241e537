namespace Cursiva.Core.Deliveries;

/// <summary>A column on its way into a table.</summary>
/// <param name="Type">The type that keeps its values exactly, as PostgreSQL calls it.</param>
public sealed record TableColumn(string Name, string Type);
