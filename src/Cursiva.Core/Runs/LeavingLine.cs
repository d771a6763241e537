namespace Cursiva.Core.Runs;

/// <summary>Something that would leave.</summary>
/// <param name="Name">The delivery or write.</param>
/// <param name="To">Who or what would receive it.</param>
/// <param name="What">What it is, or why it would not leave.</param>
/// <param name="Path">Where it is shown; null for nowhere.</param>
public sealed record LeavingLine(string Name, string To, string What, string? Path);
