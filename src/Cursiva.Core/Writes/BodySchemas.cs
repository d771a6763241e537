using System.Collections.Concurrent;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Refusals;
using Json.Schema;

namespace Cursiva.Core.Writes;

/// <summary>The JSON Schemas (2020-12) that bodies must fit before they are sent.</summary>
/// <param name="folder">Where relative paths start.</param>
internal sealed class BodySchemas(string folder)
{
    private const int MostTold = 3;

    private readonly ConcurrentDictionary<string, JsonSchema> _read = new(StringComparer.Ordinal);

    /// <summary>What of a body does not fit, and where; null where all of it does.</summary>
    /// <exception cref="RefusedException">The file is no schema.</exception>
    public string? Objection(string path, JsonNode? body)
    {
        var schema = _read.GetOrAdd(path, Read);
        using var document = JsonDocument.Parse(body?.ToJsonString() ?? "null");
        var result = schema.Evaluate(document.RootElement, new EvaluationOptions { OutputFormat = OutputFormat.List });
        if (result.IsValid)
            return null;
        var told = (result.Details ?? []).Where(detail => !detail.IsValid && detail.Errors is { Count: > 0 }).SelectMany(detail => detail.Errors!.Select(error => $"{(detail.InstanceLocation.ToString() is { Length: > 0 } at ? at : "the body")}: {error.Value}")).Distinct().ToList();
        return told.Count == 0 ? "it does not fit" : string.Join("; ", told.Take(MostTold)) + (told.Count > MostTold ? $"; and {told.Count - MostTold} more" : "");
    }

    private JsonSchema Read(string path)
    {
        var file = Path.Combine(folder, path);
        try
        {
            return JsonSchema.FromText(File.ReadAllText(file));
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException or JsonException or JsonSchemaException or ArgumentException or InvalidOperationException)
        {
            throw new RefusedException(new Refusal(Outcome.JobFileWrong, $"the schema {file} of validate: cannot be used: {error.Message.Split('\n')[0].TrimEnd()}") { NextStep = "name a file with a JSON Schema (2020-12), from the job file's folder" }, error);
        }
    }
}
