namespace Cursiva.Cli.Rendering;

/// <summary>A place of a document that does not fit its schema, as JSON has it.</summary>
internal sealed record SchemaLine(string Place, string Expected);
