using System.Text.Json.Serialization;

namespace Cursiva.Core.Runs;

/// <summary>What a trace notes of a run, as JSON.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.KebabCaseLower)]
[JsonSerializable(typeof(RunNotes))]
public sealed partial class RunNotesJson : JsonSerializerContext;
