using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Pulls;

/// <summary>The body of a request with the values of a strand in it.</summary>
internal static class FilledBody
{
    private const string Null = "null";

    /// <summary>The body as JSON; null when it is a text whose value is not known.</summary>
    /// <param name="value">The value of a name; null when it has none. A member that needs it is omitted.</param>
    /// <param name="json">The value of a name as the JSON that a row has it as, for a text that is this name and nothing else; null when it
    /// came as text.</param>
    /// <exception cref="RefusedException">A secret is missing, or a value does not fit into its name.</exception>
    public static async Task<JsonNode?> OfAsync(
        DeclaredBody body, Func<string, string?> value, Func<string, string?> json, SecretSources secrets, CancellationToken cancel)
    {
        switch (body)
        {
            case DeclaredBody.Group group:
                var filled = new JsonObject();
                foreach (var (name, inside) in group.Members)
                {
                    // A member whose value is not known is omitted; one that is null stays null.
                    var member = await OfAsync(inside, value, json, secrets, cancel);
                    if (member is not null
                        || inside is DeclaredBody.Plain
                        || (inside is DeclaredBody.Text { Value.OnlyName: { } only } && json(only) == Null))
                        filled[name] = member;
                }

                return filled;
            case DeclaredBody.Items items:
                var array = new JsonArray();
                foreach (var inside in items.Values)
                    array.Add(await OfAsync(inside, value, json, secrets, cancel));
                return array;
            case DeclaredBody.Text { Value.OnlyName: { } name } when json(name) is { } typed:
                return JsonNode.Parse(typed);
            case DeclaredBody.Text text:
                return text.Value.TryFill(value) is { } known ? JsonValue.Create((await secrets.ReadAsync(known, cancel)).Reveal()) : null;
            case DeclaredBody.Plain plain:
                return JsonNode.Parse(plain.Json);
            default:
                throw new InvalidOperationException($"no such body: {body.GetType().Name}");
        }
    }
}
