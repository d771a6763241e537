using System.Text.Json.Serialization;

namespace Cursiva.Core.Runs;

[JsonSourceGenerationOptions(UseStringEnumConverter = true, PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(RunRecord))]
[JsonSerializable(typeof(HistoryLine))]
[JsonSerializable(typeof(Pulse))]
[JsonSerializable(typeof(StrandResult))]
[JsonSerializable(typeof(Tables.WrittenRow))]
[JsonSerializable(typeof(Dictionary<string, string>))]
internal sealed partial class RunRecordJson : JsonSerializerContext;
