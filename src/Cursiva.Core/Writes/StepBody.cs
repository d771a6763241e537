using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Writes;

/// <summary>The body of a step.</summary>
/// <param name="Bytes">As it is sent; null for none.</param>
/// <param name="Type">Its media type.</param>
/// <param name="Json">As JSON; null where it is none.</param>
internal sealed record StepBody(byte[]? Bytes, string Type, JsonNode? Json)
{
    /// <exception cref="ItemRefusedException">A value is missing.</exception>
    public static async Task<StepBody> OfAsync(WriteStep step, ItemValues values, SecretSources secrets, CancellationToken cancel)
    {
        if (step.Text is { } text)
            return new StepBody(Encoding.UTF8.GetBytes(text.Fill(values.Needed)), step.Type ?? "text/plain; charset=utf-8", null);
        if (step.Body is null)
            return new StepBody(null, step.Type ?? "application/json", null);
        var json = await FilledBody.OfAsync(step.Body, values.Needed, values.Json, secrets, cancel);
        if (!step.BodyIsForm || json is not JsonObject form)
            return new StepBody(Encoding.UTF8.GetBytes(json?.ToJsonString() ?? "null"), step.Type ?? "application/json", json);
        var pairs = form.Select(pair => $"{Uri.EscapeDataString(pair.Key)}={Uri.EscapeDataString(pair.Value is JsonValue value && value.GetValueKind() == JsonValueKind.String ? value.GetValue<string>() : pair.Value?.ToJsonString() ?? "")}");
        return new StepBody(Encoding.UTF8.GetBytes(string.Join('&', pairs)), "application/x-www-form-urlencoded", json);
    }

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
