using System.Text.Json;
using Json.Schema;

namespace Cursiva.Core.Encryption;

/// <summary>What of a document does not fit a JSON Schema (2020-12), with its place.</summary>
public static class SchemaMistakes
{
    /// <summary>Every mistake: a JSON Pointer into the document, and what was expected there.</summary>
    /// <exception cref="PayloadException">The document is no JSON, or the schema is none.</exception>
    public static IReadOnlyList<KeyValuePair<string, string>> Of(string schema, string document)
    {
        JsonSchema read;
        try
        {
            read = JsonSchema.FromText(schema);
        }
        catch (Exception error) when (error is JsonException or JsonSchemaException or ArgumentException or InvalidOperationException)
        {
            throw new PayloadException($"the schema cannot be used: {error.Message.Split('\n')[0].TrimEnd()}", error);
        }

        try
        {
            using var json = JsonDocument.Parse(document);
            var result = read.Evaluate(json.RootElement, new EvaluationOptions { OutputFormat = OutputFormat.List });
            return result.IsValid ? [] : [.. (result.Details ?? []).Where(detail => !detail.IsValid && detail.Errors is { Count: > 0 }).SelectMany(detail => detail.Errors!.Select(error => KeyValuePair.Create(detail.InstanceLocation.ToString(), error.Value))).Distinct()];
        }
        catch (JsonException error)
        {
            throw new PayloadException($"the document is no JSON: {error.Message.Split('\n')[0]}", error);
        }
    }
}
