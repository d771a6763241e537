using System.Text.Json.Serialization;

namespace Cursiva.Core.Pulls;

[JsonSerializable(typeof(string))]
[JsonSerializable(typeof(Dictionary<string, string>))]
internal sealed partial class PlainJson : JsonSerializerContext;
