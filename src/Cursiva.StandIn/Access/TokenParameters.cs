using System.Text;
using System.Text.Json;

namespace Cursiva.StandIn.Access;

/// <summary>The parameters of a request to the authorization server, as a form or as JSON, and who sent them.</summary>
public sealed class TokenParameters
{
    private readonly Dictionary<string, string> _values;

    private TokenParameters(Dictionary<string, string> values) => _values = values;

    public string this[string name] => _values.GetValueOrDefault(name, "");

    public bool Has(string name) => _values.ContainsKey(name);

    /// <exception cref="RefusedException">They come in another form than the server takes.</exception>
    public static async Task<TokenParameters> ReadAsync(HttpContext context, bool wantsJson)
    {
        if (wantsJson)
        {
            if (context.Request.ContentType?.StartsWith("application/json", StringComparison.OrdinalIgnoreCase) != true)
                throw new RefusedException("invalid_request", "send the parameters as application/json", 415);
            using var document = await JsonDocument.ParseAsync(context.Request.Body);
            return new TokenParameters(
                document.RootElement.EnumerateObject().ToDictionary(field => field.Name, field => field.Value.ToString()));
        }

        if (!context.Request.HasFormContentType)
            throw new RefusedException("invalid_request", "the parameters must come as application/x-www-form-urlencoded");
        var form = await context.Request.ReadFormAsync(context.RequestAborted);
        return new TokenParameters(form.ToDictionary(field => field.Key, field => field.Value.ToString()));
    }

    /// <summary>Client id and secret from the Authorization header (RFC 6749 section 2.3.1); both halves are form-encoded.</summary>
    public static (string Id, string Secret)? Basic(string authorization)
    {
        if (!authorization.StartsWith("Basic ", StringComparison.OrdinalIgnoreCase))
            return null;
        try
        {
            var pair = Encoding.UTF8.GetString(Convert.FromBase64String(authorization[6..])).Split(':', 2);
            return pair.Length == 2 ? (Decode(pair[0]), Decode(pair[1])) : null;
        }
        catch (FormatException)
        {
            return null;
        }
    }

    private static string Decode(string text) => Uri.UnescapeDataString(text.Replace('+', ' '));
}
