using System.Collections.Concurrent;
using System.Text.Json;
using Cursiva.Core.Refusals;
using Json.Schema;

namespace Cursiva.Core.Encryption;

/// <summary>The JSON Schemas (2020-12) of a job, each read once.</summary>
/// <param name="folder">Where relative paths start.</param>
internal sealed class DocumentSchemas(string folder)
{
    private const int MostTold = 50;

    private readonly ConcurrentDictionary<string, JsonSchema> _read = new(StringComparer.Ordinal);

    /// <summary>Every mistake of a document and its place, for people; null where it fits.</summary>
    /// <param name="json">The document, whose grammar was checked.</param>
    /// <exception cref="RefusedException">The file is not a schema.</exception>
    public string? Objection(string path, ReadOnlySpan<byte> json)
    {
        var reader = new Utf8JsonReader(json);
        using var document = JsonDocument.ParseValue(ref reader);
        var mistakes = SchemaMistakes.Of(_read.GetOrAdd(path, Read), document.RootElement);
        return mistakes.Count == 0 ? null
            : string.Join(
                "; ",
                mistakes.Take(MostTold).Select(mistake => $"{(mistake.Key.Length > 0 ? mistake.Key : "the whole")}: {mistake.Value}")) + (
                mistakes.Count > MostTold ? $"; and {mistakes.Count - MostTold} more" : "");
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
            throw new RefusedException(
                new Refusal(
                    Outcome.JobFileWrong,
                    $"the schema {file} of validate: cannot be used: {error.Message.Split('\n')[0].TrimEnd()}")
                {
                    NextStep = "name a file with a JSON Schema (2020-12), relative to the job file's folder",
                },
                error);
        }
    }
}
