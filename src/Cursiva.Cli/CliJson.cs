using System.Text.Json.Serialization;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Checks;

namespace Cursiva.Cli;

[JsonSourceGenerationOptions(WriteIndented = true, PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(JobAccount))]
[JsonSerializable(typeof(MistakeLine[]))]
[JsonSerializable(typeof(SummaryRecord))]
internal sealed partial class CliJson : JsonSerializerContext;
