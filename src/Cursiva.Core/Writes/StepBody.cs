using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Writes;

/// <summary>The body of a step.</summary>
/// <param name="Bytes">As it is sent; null for none.</param>
/// <param name="Type">Its media type.</param>
/// <param name="Json">As JSON; null where it is none.</param>
/// <param name="Parts">In parts that are sent as they are read; null for none.</param>
internal sealed record StepBody(byte[]? Bytes, string Type, JsonNode? Json, IReadOnlyList<BodyPart>? Parts = null)
{
    /// <exception cref="ItemRefusedException">A value is missing.</exception>
    public static async Task<StepBody> OfAsync(WriteStep step, ItemValues values, SecretSources secrets, CancellationToken cancel)
    {
        if (step.File == FileBody.Form)
            return await FormAsync(step, values, secrets, cancel);
        if (step.File != FileBody.None)
            return new StepBody(
                null,
                step.Type ?? values.Needed(FileValues.Type),
                null,
                [BodyPart.OfFile(values.Needed(FileValues.Path), 0, FileValues.Length(values))]);
        if (step.Text is { } text)
            return new StepBody(Encoding.UTF8.GetBytes(text.Fill(values.Needed)), step.Type ?? "text/plain; charset=utf-8", null);
        if (step.Body is null)
            return new StepBody(null, step.Type ?? "application/json", null);
        var json = await FilledBody.OfAsync(step.Body, values.Needed, values.Json, secrets, cancel);
        if (!step.BodyIsForm || json is not JsonObject form)
            return new StepBody(Encoding.UTF8.GetBytes(json?.ToJsonString() ?? "null"), step.Type ?? "application/json", json);
        var pairs = form.Select(
            pair => $"{Uri.EscapeDataString(pair.Key)}={Uri.EscapeDataString(pair.Value is JsonValue value && value.GetValueKind() == JsonValueKind.String ? value.GetValue<string>() : pair.Value?.ToJsonString() ?? "")}");
        return new StepBody(Encoding.UTF8.GetBytes(string.Join('&', pairs)), "application/x-www-form-urlencoded", json);
    }

    // RFC 7578: a part for each field, and the file last, which is not read into memory.
    private static async Task<StepBody> FormAsync(WriteStep step, ItemValues values, SecretSources secrets, CancellationToken cancel)
    {
        var boundary = "cursiva-" + values.Needed(FileValues.Digest)[..32];
        var head = new StringBuilder();
        foreach (var (name, declared) in step.FormFields)
        {
            if (declared.TryFill(values.Text) is { } filled)
                head.Append("--")
                    .Append(boundary)
                    .Append("\r\nContent-Disposition: form-data; name=\"")
                    .Append(Quoted(name))
                    .Append("\"\r\n\r\n")
                    .Append((await secrets.ReadAsync(filled, cancel)).Reveal())
                    .Append(
                    "\r\n");
        }

        head.Append("--")
            .Append(boundary)
            .Append("\r\nContent-Disposition: form-data; name=\"")
            .Append(Quoted(step.FormField))
            .Append("\"; filename=\"")
            .Append(Quoted(values.Needed(FileValues.Name)))
            .Append("\"\r\nContent-Type: ")
            .Append(step.Type ?? values.Needed(FileValues.Type))
            .Append(
            "\r\n\r\n");
        return new StepBody(
            null,
            $"multipart/form-data; boundary={boundary}",
            null,
            [
                BodyPart.Of(Encoding.UTF8.GetBytes(head.ToString())),
                BodyPart.OfFile(values.Needed(FileValues.Path), 0, FileValues.Length(values)),
                BodyPart.Of(Encoding.UTF8.GetBytes($"\r\n--{boundary}--\r\n")),
            ]);
    }

    // As HTML's forms write names (WHATWG, multipart/form-data encoding algorithm).
    private static string Quoted(string name) =>
        name.Replace("\"", "%22", StringComparison.Ordinal).Replace("\r", "%0D", StringComparison.Ordinal).Replace(
            "\n", "%0A", StringComparison.Ordinal);

    /// <summary>Whether a thing has every member of the body already, so that sending it would change nothing.</summary>
    /// <returns>Null where the thing lacks a member, so that nobody knows.</returns>
    public bool? IsIn(JsonNode? thing)
    {
        if (Json is not JsonObject body || thing is not JsonObject there)
            return null;
        var same = true;
        foreach (var (name, value) in body)
        {
            if (!there.TryGetPropertyValue(name, out var other))
                return null;
            same &= JsonNode.DeepEquals(value, other);
        }

        return same;
    }
}
