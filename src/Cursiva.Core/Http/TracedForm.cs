using System.Buffers.Text;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Http;

/// <summary>
/// What a trace shows of a request for tokens and of its answer: every name, and every value that is not a secret. A token endpoint that
/// says "Bad Request" alone leaves nothing else to study.
/// </summary>
internal static class TracedForm
{
    private static readonly string[] s_secrets =
    [
        "client_secret",
        "password",
        "refresh_token",
        "code",
        "code_verifier",
        "device_code",
        "token",
        "access_token",
        "id_token",
        "subject_token",
        "actor_token",
        "user_code",
    ];
    private static readonly string[] s_assertions = ["assertion", "client_assertion"];

    /// <summary>
    /// A parameter's value as it may be shown. Of a signed assertion its header and claims are shown, which are not secret without the
    /// signature.
    /// </summary>
    public static string Value(string name, string value, Redactor redactor)
    {
        if (s_assertions.Contains(name))
            return value.Split('.') is [var header, var claims, _] && Decode(header) is { } first && Decode(claims) is { } second
                ? $"{first}.{second}.{Redactor.Mask}"
                : Redactor.Mask;
        return s_secrets.Contains(name) || ShownAddress.IsMasked(name) ? Redactor.Mask : redactor.Clean(value);
    }

    /// <summary>An answer's body as it may be shown; null when it may not, since nobody knows where its secrets are.</summary>
    public static string? Answer(Answer answer, Redactor redactor)
    {
        var text = Encoding.UTF8.GetString(answer.Body.Content);
        try
        {
            if (JsonNode.Parse(text) is JsonObject members)
            {
                Mask(members);
                return redactor.Clean(members.ToJsonString());
            }
        }
        catch (Exception error) when (error is JsonException or ArgumentException)
        {
            // No JSON, or the same member twice: judged as a text.
        }

        return answer.IsSuccess ? null : ShownAddress.InText(redactor.Clean(text));
    }

    private static string? Decode(string part)
    {
        try
        {
            return Encoding.UTF8.GetString(Base64Url.DecodeFromChars(part));
        }
        catch (FormatException)
        {
            return null;
        }
    }

    // Some servers have their token at another place, under a name of their own.
    private static void Mask(JsonObject members)
    {
        foreach (var (name, value) in members.ToList())
        {
            if (value is JsonObject inner)
                Mask(inner);
            else if (value is JsonValue && IsSecret(name))
                members[name] = Redactor.Mask;
        }
    }

    private static bool IsSecret(string name) =>
        name is not ("token_type" or "issued_token_type")
        && (s_secrets.Contains(name)
            || ShownAddress.IsMasked(name)
            || new[] { "token", "secret", "session", "password", "assertion", "ticket", "key" }.Any(
                part => name.Contains(part, StringComparison.OrdinalIgnoreCase)));
}
