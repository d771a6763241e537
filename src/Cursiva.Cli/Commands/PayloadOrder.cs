using System.CommandLine;
using Cursiva.Core.Encryption;

namespace Cursiva.Cli.Commands;

/// <summary>What one step of an exchange is made of.</summary>
/// <param name="Job">The API of a job that says how; null where the options do.</param>
/// <param name="Keys">The keys that the command line names; null for those of the job.</param>
/// <param name="Input">The payload.</param>
/// <param name="Shown">Is told each step.</param>
internal sealed record PayloadOrder(
    ParseResult Parsed, JobPayload? Job, IReadOnlyList<ExchangeKey>? Keys, byte[] Input, Action<PayloadStep> Shown)
{
    /// <summary>What came of a comparison with one's own output; null where none was asked for.</summary>
    public IReadOnlyList<ComparedStep>? Compared { get; set; }
}
