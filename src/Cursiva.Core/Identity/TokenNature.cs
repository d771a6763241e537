namespace Cursiva.Core.Identity;

/// <summary>Whether a token is a person's or an application's.</summary>
public static class TokenNature
{
    private static readonly string[] s_ofPersons = ["preferred_username", "email", "given_name", "family_name", "upn", "auth_time", "amr"];
    private static readonly string[] s_clients = ["client_id", "azp", "appid"];

    /// <summary>The client that the token was issued to; null when it does not say.</summary>
    public static string? ClientOf(Jwt token) => s_clients.Select(token.Text).FirstOrDefault(id => id is not null);

    /// <summary>True for a person's token, false for an application's, null when it cannot be told.</summary>
    public static bool? Of(Jwt token)
    {
        if (token.Text("idtyp") is { } said)
            return said switch { "user" => true, "app" => false, _ => null };
        if (s_ofPersons.Any(claim => token.Claims.TryGetProperty(claim, out _)))
            return true;
        var (subject, client) = (token.Text("sub"), ClientOf(token));

        // RFC 9068 section 2.2: without a person the subject is the client.
        if (subject is null || client is null)
            return null;
        return subject != client;
    }
}
