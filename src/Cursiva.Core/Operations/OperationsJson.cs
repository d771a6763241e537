using System.Text.Json.Serialization;

namespace Cursiva.Core.Operations;

[JsonSourceGenerationOptions(WriteIndented = true, PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(BackupRecord))]
internal sealed partial class OperationsJson : JsonSerializerContext;
