namespace Cursiva.Cli.Rendering;

/// <summary>A draft, as JSON has it.</summary>
internal sealed record DraftLine(string File, string Pull, int Requests, IReadOnlyList<string> Found, IReadOnlyList<string> Open);
