using System.Text.Json;
using Json.Schema;

namespace Cursiva.Core.Encryption;

/// <summary>What of a document does not fit a JSON Schema (2020-12), with its place.</summary>
public static class SchemaMistakes
{
    /// <summary>Every mistake: a JSON Pointer into the document, and what was expected there.</summary>
    /// <exception cref="PayloadException">The document is not JSON, or the schema is none.</exception>
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
            return Of(read, json.RootElement);
        }
        catch (JsonException error)
        {
            throw new PayloadException($"the document is not JSON: {error.Message.Split('\n')[0]}", error);
        }
    }

    /// <summary>Every mistake: a JSON Pointer into the document, and what was expected there.</summary>
    internal static IReadOnlyList<KeyValuePair<string, string>> Of(JsonSchema schema, JsonElement document)
    {
        var result = schema.Evaluate(document, new EvaluationOptions { OutputFormat = OutputFormat.List });
        if (result.IsValid)
            return [];
        List<KeyValuePair<string, string>> mistakes =
        [
            .. (result.Details ?? []).Where(detail => !detail.IsValid && detail.Errors is { Count: > 0 })
                .SelectMany(
                    detail => detail.Errors!.Select(error => KeyValuePair.Create(detail.InstanceLocation.ToString(), Plain(error.Value))))
                .Distinct(),
        ];
        return mistakes.Count > 0 ? mistakes : [KeyValuePair.Create("", "it does not match")];
    }

    // The library escapes the quotes of values that it quotes.
    private static string Plain(string message) => message.Replace("\"\\u0022", "\"").Replace("\\u0022\"", "\"").Replace("\\u0022", "\"");
}
