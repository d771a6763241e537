using System.Text.Json.Serialization;

namespace Cursiva.Core.Jobs;

/// <summary>Who a job signs in as.</summary>
/// <param name="Grant">One of the constants of <see cref="Grants"/>.</param>
public sealed record DeclaredIdentity(string Name, [property: JsonIgnore] Place Place, string Grant)
{
    /// <summary>The authorization server's issuer identifier, from which endpoints that are not given are found (RFC 8414).</summary>
    public Uri? Issuer { get; init; }

    /// <summary>RFC 6749 section 3.2; null to find it in the metadata.</summary>
    public Uri? TokenEndpoint { get; init; }

    /// <summary>RFC 6749 section 3.1; null to find it in the metadata.</summary>
    public Uri? AuthorizationEndpoint { get; init; }

    /// <summary>RFC 8628 section 3.1; null to find it in the metadata.</summary>
    public Uri? DeviceAuthorizationEndpoint { get; init; }

    /// <summary>RFC 7662; null to find it in the metadata.</summary>
    public Uri? IntrospectionEndpoint { get; init; }

    /// <summary>RFC 7009; null to find it in the metadata.</summary>
    public Uri? RevocationEndpoint { get; init; }

    /// <summary>The server's public keys (RFC 7517); null to find them in the metadata.</summary>
    public Uri? JwksUri { get; init; }

    /// <summary>The client's id; empty for a grant that has none.</summary>
    public string ClientId { get; init; } = "";

    /// <summary>How the client proves itself, by the names of <see cref="ClientAuths"/>; several where a server insists.</summary>
    public IReadOnlyList<string> ClientAuth { get; init; } = [];

    /// <summary>Whether the job leaves it to the server's metadata how the secret is shown.</summary>
    public bool MayLearnClientAuth { get; init; }

    /// <summary>Sources of the client secret (or of the header's value), tried in this order; never the secrets.</summary>
    public IReadOnlyList<SecretSource> Secrets { get; init; } = [];

    /// <summary>The key that signs assertions; null for none.</summary>
    public DeclaredKey? Key { get; init; }

    /// <summary>What assertions say.</summary>
    public DeclaredAssertion Assertion { get; init; } = new();

    /// <summary>The scopes asked for, in the order of the job file.</summary>
    public IReadOnlyList<string> Scope { get; init; } = [];

    /// <summary>Whether the token endpoint takes its parameters as a JSON object.</summary>
    public bool TokenBodyIsJson { get; init; }

    /// <summary>Further parameters of token requests; values may be secret sources.</summary>
    public IReadOnlyDictionary<string, DeclaredValue> TokenParameters { get; init; } = new Dictionary<string, DeclaredValue>();

    /// <summary>Headers of token requests; values may be secret sources.</summary>
    public IReadOnlyDictionary<string, DeclaredValue> TokenHeaders { get; init; } = new Dictionary<string, DeclaredValue>();

    /// <summary>Where the token endpoint's answer says when the token ends; null for <c>/expires_in</c>.</summary>
    public JsonPointer? TokenEndsAt { get; init; }

    /// <summary>What of the sign-in is encrypted; null for nothing.</summary>
    public SignInEncryption? Encryption { get; init; }

    /// <summary>Further parameters of authorization requests; values may be secret sources.</summary>
    public IReadOnlyDictionary<string, DeclaredValue> AuthorizationParameters { get; init; } = new Dictionary<string, DeclaredValue>();

    /// <summary>Where the first refresh token comes from, or the name it is kept under; null for a name of its own.</summary>
    public SecretSource? RefreshToken { get; init; }

    /// <summary>How long the server keeps a refresh token that nobody uses; null where the job does not say.</summary>
    public TimeSpan? RefreshTokenLives { get; init; }

    /// <summary>The person's name, of grant password.</summary>
    public string? Username { get; init; }

    /// <summary>The source of the person's password.</summary>
    public SecretSource? Password { get; init; }

    /// <summary>The redirect URI that is registered for the client; null for a loopback listener (RFC 8252 section 7.3).</summary>
    public Uri? RedirectUri { get; init; }

    /// <summary>How the token is shown to the API.</summary>
    public Presentation Presentation { get; init; } = new();

    /// <summary>A PEM file with the certificate authorities that are trusted instead of the machine's, or null.</summary>
    public string? Trust { get; init; }

    /// <summary>
    /// Places of the token endpoint's answer, as <c>token/POINTER</c>, that the APIs and pulls of the job take values from.
    /// </summary>
    public IReadOnlyList<string> TokenFields { get; init; } = [];

    /// <summary>Claims that the token is expected to have, by name; only for checks.</summary>
    public IReadOnlyDictionary<string, string> Claims { get; init; } = new Dictionary<string, string>();

    /// <summary>Scopes and roles that the job needs; only for checks.</summary>
    public IReadOnlyList<string> Permissions { get; init; } = [];

    /// <summary>Where keys stand in the job file, by name; for messages that say which line to change.</summary>
    [JsonIgnore]
    public IReadOnlyDictionary<string, Place> Places { get; init; } = new Dictionary<string, Place>();

    /// <summary>Where a key stands, or the identity itself when it is not there.</summary>
    public Place At(string key) => Places.GetValueOrDefault(key, Place);

    /// <summary>Every source of a secret in it but that of the refresh token, which is another one after each use.</summary>
    [JsonIgnore]
    public IEnumerable<SecretSource> Sources =>
        new[] { Key?.Private, Key?.Password, Password, Encryption?.Key.Source, Encryption?.Key.Password }
        .Concat(Secrets)
        .Concat(
            TokenParameters.Values
                .Concat(TokenHeaders.Values)
                .Concat(AuthorizationParameters.Values)
                .Concat(Presentation.Beside.Values)
                .Select(value => value.Source))
        .OfType<SecretSource>();

    /// <summary>Whether an access token is asked for at all.</summary>
    public bool SignsIn => Kind.SignsIn;

    /// <summary>Whether runs live on a refresh token that is kept.</summary>
    public bool Refreshes => Kind.Refreshes;

    /// <summary>Whether its key proves something: the client, or the grant itself.</summary>
    [JsonIgnore]
    public bool ProvesByKey =>
        Key is not null && (Kind.AssertsItself || ClientAuth.Any(method => method is ClientAuths.PrivateKeyJwt or ClientAuths.Tls));

    /// <summary>
    /// Whether a person can sign in for it here: a refresh token alone may come from elsewhere, and then nothing says where to.
    /// </summary>
    [JsonIgnore]
    public bool PersonCanSignIn =>
        Refreshes && (Grant != Grants.RefreshToken || (Issuer ?? AuthorizationEndpoint ?? DeviceAuthorizationEndpoint) is not null);

    /// <summary>The grant.</summary>
    [JsonIgnore]
    public Grant Kind => Grants.Of(Grant);
}
