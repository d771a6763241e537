using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Encryption;

/// <summary>Reads and writes places of a small JSON document, such as an envelope.</summary>
internal static class JsonPlaces
{
    private static readonly JsonWriterOptions s_plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>The document.</summary>
    /// <exception cref="PayloadException">It is not a JSON object or array, or has a member twice.</exception>
    public static JsonNode Read(byte[] json)
    {
        try
        {
            return JsonNode.Parse(json, documentOptions: new JsonDocumentOptions { AllowDuplicateProperties = false })
                ?? throw new PayloadException(
                "the body is null");
        }
        catch (JsonException error)
        {
            throw new PayloadException("the body is not JSON, or has a member twice", error);
        }
    }

    /// <summary>
    /// The document as it is sent: nothing escaped that need not be, since + of base64 as an escape is read by JSON alone.
    /// </summary>
    public static string Write(JsonNode document)
    {
        var bytes = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(bytes, s_plain))
            document.WriteTo(writer);
        return Encoding.UTF8.GetString(bytes.WrittenSpan);
    }

    /// <summary>What is at a place: a text as its UTF-8, anything else as JSON; null for nothing.</summary>
    public static byte[]? Bytes(JsonNode root, JsonPointer at)
    {
        JsonNode? found = root;
        foreach (var segment in at.Segments)
            found = found is JsonObject inside ? inside[segment] : found is JsonArray list
                && Index(segment) is { } index
                && index < list.Count ? list[index] : null;
        return found switch
        {
            null => null,
            JsonValue value when value.GetValueKind() == JsonValueKind.String => Encoding.UTF8.GetBytes(value.GetValue<string>()),
            _ => Encoding.UTF8.GetBytes(found.ToJsonString()),
        };
    }

    /// <summary>Puts a value at a place; objects on the way are made.</summary>
    /// <exception cref="PayloadException">Something that has no members stands on the way.</exception>
    public static void Put(JsonNode root, JsonPointer at, JsonNode? value)
    {
        var inside = root;
        foreach (var segment in at.Segments.SkipLast(1))
        {
            inside = inside switch
            {
                JsonObject members => members[segment] ??= new JsonObject(),
                JsonArray list when Index(segment) is { } index && index < list.Count => list[index]!,
                _ => throw new PayloadException($"the body cannot have anything at {at.Text}"),
            };
        }

        switch (inside)
        {
            case JsonObject members when at.Segments.Count > 0:
                members[at.Segments[^1]] = value;
                break;
            case JsonArray list when Index(at.Segments[^1]) is { } index && index < list.Count:
                list[index] = value;
                break;
            default:
                throw new PayloadException($"the body cannot have anything at '{at.Text}'");
        }
    }

    private static int? Index(string segment) =>
        int.TryParse(segment, NumberStyles.None, CultureInfo.InvariantCulture, out var index) ? index : null;
}
