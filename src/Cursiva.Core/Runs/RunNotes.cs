namespace Cursiva.Core.Runs;

/// <summary>What a rehearsal has to know of the run that was recorded, beside its requests.</summary>
/// <param name="Job">The job's name.</param>
/// <param name="Run">The run's number.</param>
/// <param name="Started">When it began: relative times are told from here.</param>
/// <param name="Resumed">Whether it went on with a run that was stopped, so that the recording has the rest alone.</param>
/// <param name="Inputs">The inputs that it was given.</param>
/// <param name="Marks">How far incremental pulls had got before it, by pull and strand.</param>
public sealed record RunNotes(
    string Job,
    int Run,
    DateTimeOffset Started,
    bool Resumed,
    Dictionary<string,
    string> Inputs,
    Dictionary<string,
    Dictionary<string,
    string>> Marks);
