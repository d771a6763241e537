namespace Cursiva.Cli.Rendering;

/// <summary>A mistake, as JSON tells it.</summary>
internal sealed record MistakeLine(string File, int Line, int Column, string Found, string Right);
