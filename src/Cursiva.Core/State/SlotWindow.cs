namespace Cursiva.Core.State;

/// <summary>One declared limit of one client at one API.</summary>
/// <param name="Bucket">Names API, client and window; the same in every process.</param>
/// <param name="Count">Slots that there are.</param>
public sealed record SlotWindow(string Bucket, int Count, TimeSpan Window);
