using System.Text.Json.Serialization;

namespace Cursiva.Core.Ledger;

[JsonSourceGenerationOptions(UseStringEnumConverter = true, PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(LedgerEntry))]
internal sealed partial class LedgerJson : JsonSerializerContext;
