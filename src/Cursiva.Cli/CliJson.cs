using System.Text.Json.Serialization;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Checks;
using Cursiva.Core.Identity;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli;

[JsonSourceGenerationOptions(WriteIndented = true, Converters =
[
    typeof(LowerCaseEnum<RunPhase>),
    typeof(LowerCaseEnum<LiveVerdict>),
], PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(JobAccount))]
[JsonSerializable(typeof(LiveRecord))]
[JsonSerializable(typeof(TokenReading))]
[JsonSerializable(typeof(CertificateFacts))]
[JsonSerializable(typeof(KeptSecret[]))]
[JsonSerializable(typeof(MistakeLine[]))]
[JsonSerializable(typeof(SummaryRecord))]
[JsonSerializable(typeof(DryRunAccount))]
[JsonSerializable(typeof(RunLine[]))]
[JsonSerializable(typeof(RunLine))]
[JsonSerializable(typeof(HistoryLine[]))]
[JsonSerializable(typeof(PullDifference[]))]
[JsonSerializable(typeof(LedgerLine[]))]
[JsonSerializable(typeof(ItemLine[]))]
[JsonSerializable(typeof(DraftLine))]
[JsonSerializable(typeof(Core.Encryption.PlainBox))]
[JsonSerializable(typeof(Core.Encryption.PayloadStep[]))]
[JsonSerializable(typeof(Core.Encryption.ComparedStep[]))]
[JsonSerializable(typeof(SchemaLine[]))]
[JsonSerializable(typeof(ShapeLine[]))]
[JsonSerializable(typeof(ColumnsLine))]
[JsonSerializable(typeof(OperationLine[]))]
[JsonSerializable(typeof(Core.Operations.UnitFile[]))]
[JsonSerializable(typeof(Core.Operations.JobsLook))]
[JsonSerializable(typeof(Core.Operations.StateSizes))]
[JsonSerializable(typeof(Core.Operations.VerifiedState))]
[JsonSerializable(typeof(int[]))]
internal sealed partial class CliJson : JsonSerializerContext;
