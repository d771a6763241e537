namespace Cursiva.Core.Jobs;

/// <summary>How a job signs in; the registered value of each is in <see cref="Grants"/>.</summary>
public enum GrantKind
{
    /// <summary>Nobody signs in.</summary>
    None,

    /// <summary>A fixed header, for instance an API key.</summary>
    Header,
    ClientCredentials,
    Password,
    JwtBearer,
    RefreshToken,
    AuthorizationCode,
    DeviceCode,
}
