using System.Text.Json.Serialization;

namespace Cursiva.Core.Files;

[JsonSerializable(typeof(List<string[]>))]
internal sealed partial class FileSetJson : JsonSerializerContext;
