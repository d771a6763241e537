namespace Cursiva.Cli.Rendering;

/// <summary>A listing of an API's description, as JSON has it.</summary>
internal sealed record OperationLine(string Operation, string Path, bool Pages, string Words);
