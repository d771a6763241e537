namespace Cursiva.Cli.Rendering;

/// <summary>What became of a pull's columns, as JSON has it.</summary>
internal sealed record ColumnsLine(string File, string Pull, IReadOnlyList<string> Added, IReadOnlyList<string> Unseen);
