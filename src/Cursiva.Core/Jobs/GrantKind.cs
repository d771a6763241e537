namespace Cursiva.Core.Jobs;

/// <summary>How a job signs in; the registered value of each is in <see cref="Grants"/>.</summary>
public enum GrantKind
{
    /// <summary>Nobody signs in.</summary>
    None,

    /// <summary>A fixed header, for instance an API key.</summary>
    Header,
    /// <summary>RFC 6749 section 4.4.</summary>
    ClientCredentials,
    /// <summary>RFC 6749 section 4.3.</summary>
    Password,
    /// <summary>RFC 7523 section 2.1.</summary>
    JwtBearer,
    /// <summary>RFC 6749 section 6.</summary>
    RefreshToken,
    /// <summary>RFC 6749 section 4.1, with PKCE (RFC 7636).</summary>
    AuthorizationCode,
    /// <summary>RFC 8628.</summary>
    DeviceCode,

    /// <summary>A sign-in request of the API's own.</summary>
    Session,
}
