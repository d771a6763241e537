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
        "how the job signs in: a grant type of the standards; session for an API's own sign-in request, whose body is token-parameters:; or header for a fixed header such as an API key")
    {
        Required = true,
        Choices = Grants.All,
    };

    // where
    public static readonly Key Issuer = new(
        "issuer",
        KeyKind.Text,
        "the authorization server's issuer; missing endpoints are read from its metadata (RFC 8414, OpenID Connect Discovery)" + Https)
    {
        Example = "https://login.brackwater.example",
    };
    public static readonly Key TokenEndpoint = new("token-endpoint", KeyKind.Text, "the authorization server's token endpoint" + Https)
    {
        Otherwise = Found,
        Example = "https://login.brackwater.example/oauth2/token",
    };
    public static readonly Key AuthorizationEndpoint = new(
        "authorization-endpoint", KeyKind.Text, "the address that a person's browser opens to sign in" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key DeviceAuthorizationEndpoint = new(
        "device-authorization-endpoint", KeyKind.Text, "the endpoint that issues device codes (RFC 8628)" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key IntrospectionEndpoint = new(
        "introspection-endpoint", KeyKind.Text, "the endpoint that explains opaque tokens (RFC 7662)" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key RevocationEndpoint = new(
        "revocation-endpoint", KeyKind.Text, "the endpoint that revokes tokens (RFC 7009)" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key JwksUri = new(
        "jwks-uri", KeyKind.Text, "the address of the server's public keys (RFC 7517), for checking a token's signature" + Https)
    {
        Otherwise = Found,
    };
    public static readonly Key Trust = new(
        "trust",
        KeyKind.Text,
        "a PEM file with the certificate authorities to trust here; the check cannot be turned off")
    {
        Otherwise = "the machine's trust store",
        Example = "brackwater-ca.pem",
    };

    // who
    public static readonly Key ClientId = new("client-id", KeyKind.Text, "the client's id, as the administrator gave it")
    {
        Example = "3f1c-demo",
    };
    public static readonly Key ClientAuth = new(
        "client-auth", KeyKind.Choices, "how the client authenticates; two methods together if the server insists")
    {
        Choices = ClientAuths.All,
        Otherwise = "client_secret_basic with a secret, private_key_jwt with a key, none with neither",
        Example = "private_key_jwt",
    };
    public static readonly Key Secret = new(
        "secret",
        KeyKind.SecretSources,
        "where the client secret is, never the secret itself; list several during a changeover, and they are tried in that order. With grant: header, the header's value")
    {
        Example = "[kept:new-secret, kept:old-secret]",
    };
    public static readonly Key Username = new("username", KeyKind.Text, "the user's name, for grant: password");
    public static readonly Key Password = new("password", KeyKind.SecretSource, "where the user's password is, for grant: password")
    {
        Example = "kept:reporting-password",
    };
    public static readonly Key RefreshToken = new(
        "refresh-token",
        KeyKind.SecretSource,
        "where the refresh token is: kept:NAME (put an input into the name to have one for each account), or env:NAME or file:PATH, which is read once; its successors are kept in the store")
    {
        Otherwise = "kept in the store under the identity's name",
        Example = "kept:exchange/{account}",
    };

    public static readonly Key RefreshTokenLives = new(
        "refresh-token-lives",
        KeyKind.Duration,
        "how long the server keeps an unused refresh token; check, run and overview warn before it expires, and cursiva schedule keeps it alive between runs")
    {
        Otherwise = "unknown; nothing warns",
        Example = "14d",
    };

    // the key
    public static readonly Key PrivateKey = new(
        "private",
        KeyKind.SecretSource,
        "the private key: a PKCS #12 or PEM file as file:PATH, encrypted or not, or PEM text from any other source")
    {
        Required = true,
        Example = "file:reporting.p12",
    };
    public static readonly Key Certificate = new(
        "certificate", KeyKind.Text, "the file with the certificate (PEM or DER), if it is not in the key's file")
    {
        Otherwise = "read from the key's file",
        Example = "reporting.crt",
    };
    public static readonly Key KeyPassword = new("password", KeyKind.SecretSource, "where the key's password is")
    {
        Example = "kept:p12-password",
    };
    public static readonly Key KeyId = new("key-id", KeyKind.Text, "the id that the server knows the key by, sent as kid")
    {
        Otherwise = "no kid; the certificate's thumbprints are sent as x5t and x5t#S256",
    };
    public static readonly Section KeySection = new(
        "private-key", "the private key for signing assertions or for client certificates in TLS",
        [
            PrivateKey,
            Certificate,
            KeyPassword,
            KeyId,
        ]);
    public static readonly Key PrivateKeyGroup = new(
        "private-key", KeyKind.Section, "the private key for private_key_jwt, tls_client_auth or a jwt-bearer grant")
    {
        Inside = KeySection,
    };

    // the assertion
    public static readonly Key Audience = new("audience", KeyKind.Text, "the aud claim") { Otherwise = "the token endpoint" };
    public static readonly Key AssertionIssuer = new("issuer", KeyKind.Text, "the iss claim, for a jwt-bearer grant")
    {
        Otherwise = "client-id",
    };
    public static readonly Key Subject = new("subject", KeyKind.Text, "the sub claim, for a jwt-bearer grant: whom the client acts for")
    {
        Otherwise = "the issuer",
    };
    public static readonly Key Lifetime = new("lifetime", KeyKind.Duration, "how long an assertion is valid, at most 5m")
    {
        Otherwise = "2m",
        Example = "5m",
    };
    public static readonly Key Algorithm = new("algorithm", KeyKind.Choice, "the signature algorithm")
    {
        Choices = DeclaredAssertion.Algorithms,
        Otherwise = "RS256 for an RSA key, ES256 or ES384 for an elliptic curve",
    };
    public static readonly Key SendCertificate = new("x5c", KeyKind.Choice, "whether to include the certificate as x5c")
    {
        Choices = ["true", "false"],
        Otherwise = "false",
    };
    public static readonly Key AssertionClaims = new("claims", KeyKind.TextMap, "additional claims, for a jwt-bearer grant")
    {
        Example = "{ scope: consignments.read }",
    };
    public static readonly Section AssertionSection = new(
        "assertion",
        "the contents of signed assertions (RFC 7523)",
        [Audience, AssertionIssuer, Subject, Lifetime, Algorithm, SendCertificate, AssertionClaims]);
    public static readonly Key Assertion = new("assertion", KeyKind.Section, "settings of signed assertions that differ from the defaults")
    {
        Inside = AssertionSection,
    };

    // what is asked
    public static readonly Key Scope = new("scope", KeyKind.Texts, "the scopes to ask for")
    {
        Otherwise = "no scope is requested; the server decides",
        Example = "[consignments.read]",
    };
    public static readonly Key TokenParameters = new(
        "token-parameters", KeyKind.TextMap, "additional parameters of the token request; a value can be a secret source")
    {
        Example = "{ audience: https://api.brackwater.example }",
    };
    public static readonly Key TokenHeaders = new(
        "token-headers", KeyKind.TextMap, "additional headers of the token request; a value can be a secret source")
    {
        Example = "{ X-Desk-Client: kept:desk-client }",
    };
    public static readonly Key AuthorizationParameters = new(
        "authorization-parameters",
        KeyKind.TextMap,
        "additional parameters of the authorization request when a person signs in; a value can be a secret source")
    {
        Example = "{ prompt: consent }",
    };
    public static readonly Key TokenBody = new("token-body", KeyKind.Choice, "the format in which the token endpoint takes its parameters")
    {
        Choices = ["form", "json"],
        Otherwise = "form (RFC 6749)",
    };
    public static readonly Key RedirectUri = new(
        "redirect-uri",
        KeyKind.Text,
        "the client's registered redirect URI. Cursiva listens there if it is on the loopback address, on any free port if it names none; for any other address, paste the answer")
    {
        Otherwise = "`http://127.0.0.1/` on a free port (RFC 8252)",
    };

    // how it is shown
    public static readonly Key TokenAt = new("token-at", KeyKind.Pointer, "the place of the token in the token endpoint's answer")
    {
        Otherwise = "/access_token",
        Example = "/data/session",
    };
    public static readonly Key TokenEndsAt = new(
        "token-ends-at",
        KeyKind.Pointer,
        "the place of the token's expiry in the token endpoint's answer: seconds from now, or a time (UTC if it has no offset)")
    {
        Otherwise = "/expires_in",
        Example = "/data/ends",
    };
    public static readonly Key Header = new("header", KeyKind.Text, "the header that carries the token or the fixed value")
    {
        Otherwise = "Authorization",
        Example = "X-Api-Key",
    };
    public static readonly Key Scheme = new("scheme", KeyKind.Text, "the word before the token; empty for no word")
    {
        Otherwise = "the answer's token_type, usually Bearer; none in another header than Authorization",
        Example = "Token",
    };
    public static readonly Key HeadersBeside = new(
        "headers-beside",
        KeyKind.TextMap,
        "headers to send with the token's; a value can be a secret source, and {token/POINTER} is filled in from the token endpoint's answer")
    {
        Example = "{ X-Partner-Key: kept:partner-key, X-Account: '{token/account_id}' }",
    };

    // what is expected
    public static readonly Key Permissions = new(
        "permissions", KeyKind.Texts, "the scopes and roles that the token must have; check --live and token read look for them")
    {
        Example = "[consignments.export]",
    };
    public static readonly Key Claims = new(
        "claims", KeyKind.TextMap, "the claims that the token must have; check --live and token read compare them")
    {
        Example = "{ aud: https://api.brackwater.example, tenant: brackwater }",
    };

    public static readonly Section Section = new("identity", "an identity that the job signs in as",
    [
        Grant, Issuer, TokenEndpoint, AuthorizationEndpoint, DeviceAuthorizationEndpoint, IntrospectionEndpoint, RevocationEndpoint, JwksUri, Trust,
        ClientId, ClientAuth, Secret, PrivateKeyGroup, Assertion, Username, Password, RefreshToken, RefreshTokenLives,
        Scope, TokenParameters, TokenHeaders, AuthorizationParameters, TokenBody, RedirectUri, EncryptionKeys.SignIn,
        TokenAt, TokenEndsAt, Header, Scheme, HeadersBeside, Permissions, Claims,
    ]);
}
