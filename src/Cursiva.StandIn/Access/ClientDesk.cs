using System.Security.Cryptography.X509Certificates;

namespace Cursiva.StandIn.Access;

/// <summary>Knows the clients, and finds out whether a request really comes from one.</summary>
public sealed class ClientDesk(StandInOptions options)
{
    private readonly AssertionDesk _assertions = new(options);

    /// <summary>The client of a person's sign-in, which has no secret.</summary>
    public const string PersonsClient = "brackwater-person";

    public Client? Find(string id) => id == options.ClientId
        ? new Client(
            id,
            IsPublic: false,
            ["client_credentials", "refresh_token", "authorization_code", "password", AssertionDesk.Grant, DeviceDesk.Grant])
        : TenantOf(id) is not null ? new Client(id, IsPublic: false, ["client_credentials", "refresh_token"])
        : id == PersonsClient ? new Client(id, IsPublic: true, ["refresh_token", "authorization_code", DeviceDesk.Grant]) : null;

    /// <summary>The tenant that a client belongs to; null for the others.</summary>
    public static string? TenantOf(string client) =>
        client.StartsWith("tenant-", StringComparison.Ordinal) ? client["tenant-".Length..] : null;

    /// <summary>The client behind a request.</summary>
    /// <exception cref="RefusedException">It does not prove itself.</exception>
    public Client Check(HttpContext context, TokenParameters parameters)
    {
        var basic = TokenParameters.Basic(context.Request.Headers.Authorization.ToString());
        if (options.Has("both-proofs") && (basic is null || !parameters.Has("client_secret")))
            throw new RefusedException("invalid_client", "send the client's credentials in the header and among the parameters", 401);
        if (parameters["grant_type"] == AssertionDesk.Grant && basic is null && !parameters.Has("client_secret"))
            return Find(options.ClientId)!;
        var id = basic?.Id ?? (
            parameters["client_id"].Length > 0 ? parameters["client_id"] : _assertions.ClientOf(parameters["client_assertion"]));
        var client = Find(id) ?? throw new RefusedException("invalid_client", $"no such client: '{id}'", 401);
        if (client.IsPublic)
            return client;
        if (parameters.Has("client_assertion"))
        {
            _assertions.Check(parameters["client_assertion"], client.Id, context, "invalid_client");
            return client;
        }

        if (context.Connection.ClientCertificate is { } certificate && basic is null && !parameters.Has("client_secret"))
            return Registered(certificate)
                ? client
                : throw new RefusedException("invalid_client", "the certificate is not registered for this client", 401);
        if (TenantOf(client.Id) is { } tenant)
        {
            // Each tenant has a client, a secret and a token endpoint of its own.
            if (!context.Request.Path.StartsWithSegments($"/tenants/{tenant}")
                || (basic?.Secret ?? parameters["client_secret"]) != $"{options.ClientSecret}-{tenant}")
                throw new RefusedException("invalid_client", $"the secret or the endpoint is not that of tenant {tenant}", 401);
            return client;
        }

        CheckSecret(basic?.Secret ?? parameters["client_secret"]);
        return client;
    }

    /// <summary>Checks the assertion that is a grant of its own, and gives its subject.</summary>
    public string CheckGrant(string assertion, HttpContext context) => _assertions.Check(assertion, null, context, "invalid_grant");

    private void CheckSecret(string secret)
    {
        if (options.Has("secret-expired") && secret == options.ClientSecret)
            throw new RefusedException("invalid_client", "the client secret has expired on 2026-01-31", 401);
        if (secret != options.ClientSecret && secret != options.SecondSecret)
            throw new RefusedException("invalid_client", "the client secret is wrong", 401);
    }

    private bool Registered(X509Certificate2 certificate) =>
        options.ClientCertificate is { } path && X509CertificateLoader.LoadCertificateFromFile(path).Thumbprint == certificate.Thumbprint;
}
