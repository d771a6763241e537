using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>Who asks an address that no job declares, as a command line says it. Secrets are named by their sources, never given.</summary>
public sealed record AskedSignIn
{
    /// <summary>The name of the identity in the job that is made of it.</summary>
    public const string Identity = "app";

    /// <summary>The token endpoint; null where the issuer's metadata tell it, or nobody signs in.</summary>
    public string? TokenEndpoint { get; init; }

    /// <summary>The authorization server's issuer (RFC 8414).</summary>
    public string? Issuer { get; init; }

    /// <summary>The client's id.</summary>
    public string? ClientId { get; init; }

    /// <summary>How the client proves itself; null for the usual way.</summary>
    public string? ClientAuth { get; init; }

    /// <summary>The source of the client secret.</summary>
    public string? Secret { get; init; }

    /// <summary>The source of the private key of assertions.</summary>
    public string? PrivateKey { get; init; }

    /// <summary>The source of the key's password.</summary>
    public string? KeyPassword { get; init; }

    /// <summary>The scopes to ask for.</summary>
    public IReadOnlyList<string> Scope { get; init; } = [];

    /// <summary>The source of an access token that is there already (RFC 6750).</summary>
    public string? Bearer { get; init; }

    /// <summary>Whether a person signs in on another device (RFC 8628).</summary>
    public bool Device { get; init; }

    /// <summary>Further headers, by name: values, or secret sources.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Headers { get; init; } = [];

    /// <summary>Headers whose value a secret source has.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> HeaderSources { get; init; } = [];

    /// <summary>A PEM file with the authorities that are trusted; null for those of the machine.</summary>
    public string? Trust { get; init; }

    /// <summary>Whether somebody signs in.</summary>
    public bool SignsIn => Bearer is not null || Device || TokenEndpoint is not null || Issuer is not null || ClientId is not null;

    /// <summary>The lines of the identity in a job, without their indentation; empty where nobody signs in.</summary>
    internal IEnumerable<(string Line, string Why)> Lines()
    {
        if (!SignsIn)
            yield break;
        if (Bearer is not null)
        {
            yield return ($"grant: {Grants.Header}", "a token that you already have");
            yield return ("scheme: Bearer", "");
            yield return ($"secret: {YamlText.Scalar(Bearer)}", "where the token is; it is read at every run");
            yield break;
        }

        yield return (
            $"grant: {(Device ? Grants.DeviceCode : Grants.ClientCredentials)}",
            Device ? "a person signs in once: cursiva sign-in JOB" : "the application signs in as itself");
        if (Issuer is not null)
            yield return ($"issuer: {YamlText.Literal(Issuer)}", "its metadata give the endpoints");
        if (TokenEndpoint is not null)
            yield return ($"token-endpoint: {YamlText.Literal(TokenEndpoint)}", "");
        if (ClientId is not null)
            yield return ($"client-id: {YamlText.Literal(ClientId)}", "");
        if (ClientAuth is not null)
            yield return ($"client-auth: {YamlText.Scalar(ClientAuth)}", "how the client authenticates");
        if (Secret is not null)
            yield return ($"secret: {YamlText.Scalar(Secret)}", "where the secret is, never the secret itself");
        if (PrivateKey is not null)
            yield return (
                $"private-key: {{ private: {YamlText.Quoted(PrivateKey)}{(KeyPassword is null ? "" : $", password: {YamlText.Quoted(KeyPassword)}")} }}",
                "the key that signs assertions");
        if (Scope.Count > 0)
            yield return ($"scope: [{string.Join(", ", Scope.Select(YamlText.Quoted))}]", "");
        if (Trust is not null)
            yield return ($"trust: {YamlText.Scalar(Trust)}", "");
    }
}
