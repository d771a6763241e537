namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of an identity.</summary>
public static class IdentityKeys
{
    private const string Https = "; https, or http on the loopback address";
    private const string Found = "found from issuer:";

    public static readonly Key Grant = new(
        "grant",
        KeyKind.Choice,
        "how the job signs in; the values of the standards, session for a sign-in request of the API's own whose body is token-parameters:, and header for a fixed header such as an API key")
    {
        Required = true,
        Choices = Grants.All,
    };

    // where
    public static readonly Key Issuer = new(
        "issuer",
        KeyKind.Text,
        "the authorization server's issuer; endpoints that are not given are found from its metadata (RFC 8414, OpenID Connect Discovery)" + Https)
    {
        Example = "https://login.brackwater.example",
    };
    public static readonly Key TokenEndpoint = new("token-endpoint", KeyKind.Text, "the authorization server's token endpoint" + Https)
    {
        Otherwise = Found,
        Example = "https://login.brackwater.example/oauth2/token",
    };
    public static readonly Key AuthorizationEndpoint = new(
        "authorization-endpoint", KeyKind.Text, "where a person's browser is sent to sign in" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key DeviceAuthorizationEndpoint = new(
        "device-authorization-endpoint", KeyKind.Text, "where a device code is asked for (RFC 8628)" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key IntrospectionEndpoint = new(
        "introspection-endpoint", KeyKind.Text, "what explains opaque tokens (RFC 7662)" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key RevocationEndpoint = new("revocation-endpoint", KeyKind.Text, "what takes tokens back (RFC 7009)" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key JwksUri = new(
        "jwks-uri", KeyKind.Text, "the server's public keys (RFC 7517), to check a token's signature" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key Trust = new(
        "trust",
        KeyKind.Text,
        "a PEM file with the certificate authorities that are trusted here; there is no switch that turns the check off")
    {
        Otherwise = "those that the machine trusts",
        Example = "brackwater-ca.pem",
    };

    // who
    public static readonly Key ClientId = new("client-id", KeyKind.Text, "the client's id, as the administrator gave it")
    {
        Example = "3f1c-demo",
    };
    public static readonly Key ClientAuth = new(
        "client-auth", KeyKind.Choices, "how the client proves itself; two together where a server insists")
    {
        Choices = ClientAuths.All,
        Otherwise = "client_secret_basic with a secret, private_key_jwt with a key, none with neither",
        Example = "private_key_jwt",
    };
    public static readonly Key Secret = new(
        "secret",
        KeyKind.SecretSources,
        "where the client secret is, never the secret itself; several for the days of a changeover, tried in this order. With grant header: the header's value")
    {
        Example = "[kept:new-secret, kept:old-secret]",
    };
    public static readonly Key Username = new("username", KeyKind.Text, "the person's name, for grant password");
    public static readonly Key Password = new("password", KeyKind.SecretSource, "where the person's password is, for grant password")
    {
        Example = "kept:reporting-password",
    };
    public static readonly Key RefreshToken = new(
        "refresh-token",
        KeyKind.SecretSource,
        "where the refresh token is kept: kept:NAME, one for each account with an input in the name; or env:NAME or file:PATH, which is taken once, its successors living in the store")
    {
        Otherwise = "kept under a name of the identity",
        Example = "kept:exchange/{account}",
    };

    public static readonly Key RefreshTokenLives = new(
        "refresh-token-lives",
        KeyKind.Duration,
        "how long the server keeps a refresh token that nobody uses: check, run and overview tell when it ends, and cursiva schedule keeps it alive between runs")
    {
        Otherwise = "not known, and not told",
        Example = "14d",
    };

    // the key
    public static readonly Key PrivateKey = new(
        "private",
        KeyKind.SecretSource,
        "a PKCS #12 or PEM file with the private key, encrypted or not; as file:PATH, or the text of a PEM from any source")
    {
        Required = true,
        Example = "file:reporting.p12",
    };
    public static readonly Key Certificate = new(
        "certificate", KeyKind.Text, "the file with the certificate, PEM or DER, when it does not come with the key")
    {
        Otherwise = "taken from where the key is",
        Example = "reporting.crt",
    };
    public static readonly Key KeyPassword = new("password", KeyKind.SecretSource, "where the password of the key is")
    {
        Example = "kept:p12-password",
    };
    public static readonly Key KeyId = new("key-id", KeyKind.Text, "the key's id at the server, sent as kid")
    {
        Otherwise = "no kid is sent; the certificate's thumbprints are, as x5t and x5t#S256",
    };
    public static readonly Section KeySection = new(
        "private-key", "the private key that assertions are signed with, or that TLS shows", [PrivateKey, Certificate, KeyPassword, KeyId]);
    public static readonly Key PrivateKeyGroup = new(
        "private-key", KeyKind.Section, "the private key for private_key_jwt, tls_client_auth or a jwt-bearer grant")
    {
        Inside = KeySection,
    };

    // the assertion
    public static readonly Key Audience = new("audience", KeyKind.Text, "aud of the assertion") { Otherwise = "the token endpoint" };
    public static readonly Key AssertionIssuer = new("issuer", KeyKind.Text, "iss of a jwt-bearer grant") { Otherwise = "client-id" };
    public static readonly Key Subject = new("subject", KeyKind.Text, "sub of a jwt-bearer grant: whom the client acts for")
    {
        Otherwise = "the issuer",
    };
    public static readonly Key Lifetime = new("lifetime", KeyKind.Duration, "how long an assertion is good for, at most 5m")
    {
        Otherwise = "2m",
        Example = "5m",
    };
    public static readonly Key Algorithm = new("algorithm", KeyKind.Choice, "how it is signed")
    {
        Choices = DeclaredAssertion.Algorithms,
        Otherwise = "RS256 for an RSA key, ES256 or ES384 for an elliptic curve",
    };
    public static readonly Key SendCertificate = new("x5c", KeyKind.Choice, "whether the certificate goes along as x5c")
    {
        Choices = ["true", "false"],
        Otherwise = "false",
    };
    public static readonly Key AssertionClaims = new("claims", KeyKind.TextMap, "further claims of a jwt-bearer grant")
    {
        Example = "{ scope: consignments.read }",
    };
    public static readonly Section AssertionSection = new(
        "assertion",
        "what signed assertions say (RFC 7523)",
        [Audience, AssertionIssuer, Subject, Lifetime, Algorithm, SendCertificate, AssertionClaims]);
    public static readonly Key Assertion = new("assertion", KeyKind.Section, "what signed assertions say where it differs from the usual")
    {
        Inside = AssertionSection,
    };

    // what is asked
    public static readonly Key Scope = new("scope", KeyKind.Texts, "the scopes to ask for")
    {
        Otherwise = "none are asked for; the server decides",
        Example = "[consignments.read]",
    };
    public static readonly Key TokenParameters = new(
        "token-parameters", KeyKind.TextMap, "further parameters of the token request; a value may be a secret source")
    {
        Example = "{ audience: https://api.brackwater.example }",
    };
    public static readonly Key TokenHeaders = new(
        "token-headers", KeyKind.TextMap, "headers of the token request; a value may be a secret source")
    {
        Example = "{ X-Desk-Client: kept:desk-client }",
    };
    public static readonly Key AuthorizationParameters = new(
        "authorization-parameters",
        KeyKind.TextMap,
        "further parameters of the authorization request of a person's sign-in; a value may be a secret source")
    {
        Example = "{ prompt: consent }",
    };
    public static readonly Key TokenBody = new("token-body", KeyKind.Choice, "how the token endpoint takes its parameters")
    {
        Choices = ["form", "json"],
        Otherwise = "form, as RFC 6749 says",
    };
    public static readonly Key RedirectUri = new(
        "redirect-uri",
        KeyKind.Text,
        "the redirect URI that is registered for the client: on the loopback address it is listened at, on any free port where it names none; elsewhere the answer is pasted")
    {
        Otherwise = "`http://127.0.0.1/`, on a free port, as RFC 8252 says",
    };

    // how it is shown
    public static readonly Key TokenAt = new("token-at", KeyKind.Pointer, "where the token endpoint's answer has the token")
    {
        Otherwise = "/access_token",
        Example = "/data/session",
    };
    public static readonly Key TokenEndsAt = new(
        "token-ends-at",
        KeyKind.Pointer,
        "where the token endpoint's answer says when the token ends: seconds from now, or a time (without an offset: UTC)")
    {
        Otherwise = "/expires_in",
        Example = "/data/ends",
    };
    public static readonly Key Header = new("header", KeyKind.Text, "the header that carries the token, or the fixed value")
    {
        Otherwise = "Authorization",
        Example = "X-Api-Key",
    };
    public static readonly Key Scheme = new("scheme", KeyKind.Text, "the word before the token; empty for none")
    {
        Otherwise = "the answer's token_type, usually Bearer; none in another header than Authorization",
        Example = "Token",
    };
    public static readonly Key HeadersBeside = new(
        "headers-beside",
        KeyKind.TextMap,
        "further headers next to the token's; a value may be a secret source, and {token/POINTER} is filled in from the token endpoint's answer")
    {
        Example = "{ X-Partner-Key: kept:partner-key, X-Account: '{token/account_id}' }",
    };

    // what is expected
    public static readonly Key Permissions = new(
        "permissions", KeyKind.Texts, "the scopes and roles that the job needs in its token; check --live and token read compare them")
    {
        Example = "[consignments.export]",
    };
    public static readonly Key Claims = new(
        "claims", KeyKind.TextMap, "claims that the token must have; check --live and token read compare them")
    {
        Example = "{ aud: https://api.brackwater.example, tenant: brackwater }",
    };

    public static readonly Section Section = new("identity", "who the job signs in as",
    [
        Grant, Issuer, TokenEndpoint, AuthorizationEndpoint, DeviceAuthorizationEndpoint, IntrospectionEndpoint, RevocationEndpoint, JwksUri, Trust,
        ClientId, ClientAuth, Secret, PrivateKeyGroup, Assertion, Username, Password, RefreshToken, RefreshTokenLives,
        Scope, TokenParameters, TokenHeaders, AuthorizationParameters, TokenBody, RedirectUri, PayloadKeys.SignIn,
        TokenAt, TokenEndsAt, Header, Scheme, HeadersBeside, Permissions, Claims,
    ]);
}
