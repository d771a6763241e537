using System.Text.Json.Serialization;

namespace Cursiva.Core.Writes;

[JsonSourceGenerationOptions(UseStringEnumConverter = true, PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(ItemEntry))]
[JsonSerializable(typeof(PlannedItem))]
[JsonSerializable(typeof(WriteItem))]
[JsonSerializable(typeof(Tables.WrittenRow))]
[JsonSerializable(typeof(string[]))]
internal sealed partial class WriteJson : JsonSerializerContext;
