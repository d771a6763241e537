using System.Text.Json.Serialization;

namespace Cursiva.Core.Runs;

[JsonSourceGenerationOptions(UseStringEnumConverter = true, PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(RunRecord))]
internal sealed partial class RunRecordJson : JsonSerializerContext;
