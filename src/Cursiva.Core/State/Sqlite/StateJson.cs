using System.Text.Json.Serialization;

namespace Cursiva.Core.State;

/// <summary>Lists of texts on their way into a statement.</summary>
[JsonSerializable(typeof(string[]))]
internal sealed partial class StateJson : JsonSerializerContext;
