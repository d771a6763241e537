namespace Cursiva.Core.Jobs;

/// <summary>The values of <c>grant:</c>; those of the standards are spelt as they are registered.</summary>
public static class Grants
{
    /// <summary>RFC 6749 section 4.4.</summary>
    public const string ClientCredentials = "client_credentials";

    /// <summary>RFC 6749 section 6.</summary>
    public const string RefreshToken = "refresh_token";

    /// <summary>RFC 6749 section 4.1, with PKCE (RFC 7636).</summary>
    public const string AuthorizationCode = "authorization_code";

    /// <summary>RFC 8628.</summary>
    public const string DeviceCode = "urn:ietf:params:oauth:grant-type:device_code";

    /// <summary>RFC 7523 section 2.1.</summary>
    public const string JwtBearer = "urn:ietf:params:oauth:grant-type:jwt-bearer";

    /// <summary>RFC 6749 section 4.3.</summary>
    public const string Password = "password";

    /// <summary>A sign-in request of the API's own, outside OAuth: its body is what the job says.</summary>
    public const string Session = "session";

    /// <summary>A fixed header, for instance an API key.</summary>
    public const string Header = "header";

    /// <summary>Nobody signs in.</summary>
    public const string None = "none";

    /// <summary>Every value of <c>grant:</c>.</summary>
    public static IReadOnlyList<string> All { get; } = [.. DeclaredGrants.All.Select(grant => grant.Value)];

    /// <summary>The grant that a text is; that of nobody where it is not a value of <c>grant:</c>, which is a mistake of the job.</summary>
    public static Grant Of(string value) =>
        DeclaredGrants.All.FirstOrDefault(grant => grant.Value == value) ?? DeclaredGrants.All.First(grant => grant.Value == None);
}
