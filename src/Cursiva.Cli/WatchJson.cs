using System.Text.Json.Serialization;
using Cursiva.Core.Runs;

namespace Cursiva.Cli;

[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(Pulse))]
internal sealed partial class WatchJson : JsonSerializerContext;
