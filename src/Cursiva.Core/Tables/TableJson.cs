using System.Text.Json.Serialization;

namespace Cursiva.Core.Tables;

[JsonSerializable(typeof(string))]
internal sealed partial class TableJson : JsonSerializerContext;
