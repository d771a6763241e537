using System.Text.Json.Serialization;

namespace Cursiva.Core.Deliveries;

[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(TableManifest))]
internal sealed partial class DeliveryJson : JsonSerializerContext;
