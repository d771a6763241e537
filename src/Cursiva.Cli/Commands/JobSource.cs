using System.CommandLine;
using Cursiva.Core.Jobs;

namespace Cursiva.Cli.Commands;

/// <summary>The job that a command line names, with the inputs that it gives.</summary>
internal sealed record JobSource(string Path, GivenInputs Inputs)
{
    public static JobSource Of(string path, ParseResult parsed, CommonOptions options, Func<string, string?> environment) => new(
        path,
        new GivenInputs(
            parsed.GetValue(options.InputsFrom)!,
            [.. parsed.GetValue(options.Input)!.Select(
                text => KeyValuePair.Create(
                    text[..text.IndexOf('=', StringComparison.Ordinal)], text[(text.IndexOf('=', StringComparison.Ordinal) + 1)..]))],
            environment));

    /// <summary>Reads the job with its relative times told from a start.</summary>
    /// <exception cref="JobMistakesException">The job has mistakes.</exception>
    public Job Read(DateTimeOffset start) => JobReader.Read(Path, Inputs, start);

    /// <summary>Reads the job as a run had it, but for what the command line gives.</summary>
    /// <exception cref="JobMistakesException">The job has mistakes.</exception>
    public Job ReadFor(DateTimeOffset start, IReadOnlyDictionary<string, string> ofRun) =>
        JobReader.Read(Path, Inputs with { OfRun = ofRun }, start);
}
