using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>
/// The endpoints of an authorization server: as the job gives them, otherwise from the metadata of its issuer (RFC 8414 section 3,
/// OpenID Connect Discovery 1.0 section 4).
/// </summary>
public sealed class Endpoints(DeclaredIdentity identity, HttpSender sender, IRequestWatch requests, Redactor redactor)
{
    private static readonly TimeSpan s_timeout = TimeSpan.FromSeconds(30);
    private const int LargestAnswer = 1024 * 1024;

    private JsonElement? _metadata;

    /// <exception cref="RefusedException">It is not given, and the metadata cannot be had or does not name it.</exception>
    public Task<Uri> TokenAsync(CancellationToken cancel) => FindAsync(identity.TokenEndpoint, "token_endpoint", "token-endpoint", cancel);

    /// <inheritdoc cref="TokenAsync"/>
    public Task<Uri> AuthorizationAsync(CancellationToken cancel) =>
        FindAsync(identity.AuthorizationEndpoint, "authorization_endpoint", "authorization-endpoint", cancel);

    /// <inheritdoc cref="TokenAsync"/>
    public Task<Uri> DeviceAuthorizationAsync(CancellationToken cancel) =>
        FindAsync(identity.DeviceAuthorizationEndpoint, "device_authorization_endpoint", "device-authorization-endpoint", cancel);

    /// <inheritdoc cref="TokenAsync"/>
    public Task<Uri> RevocationAsync(CancellationToken cancel) =>
        FindAsync(identity.RevocationEndpoint, "revocation_endpoint", "revocation-endpoint", cancel);

    /// <summary>Where tokens are explained; null when neither the job nor the metadata say.</summary>
    public Task<Uri?> IntrospectionAsync(CancellationToken cancel) =>
        TryFindAsync(identity.IntrospectionEndpoint, "introspection_endpoint", cancel);

    /// <summary>Where the server's keys are; null when neither the job nor the metadata say.</summary>
    public Task<Uri?> JwksAsync(CancellationToken cancel) => TryFindAsync(identity.JwksUri, "jwks_uri", cancel);

    /// <summary>Whether the server says that it names its issuer in every answer through a browser (RFC 9207 section 3).</summary>
    public async Task<bool> NamesIssuerAsync(CancellationToken cancel)
    {
        if (identity.Issuer is null)
            return false;
        try
        {
            return (await MetadataAsync(identity.Issuer, cancel)).TryGetProperty(
                "authorization_response_iss_parameter_supported", out var value)
                && value.ValueKind == JsonValueKind.True;
        }
        catch (RefusedException)
        {
            // A server without metadata, whose endpoints the job gives, promises nothing.
            return false;
        }
    }

    /// <summary>
    /// The ways in which clients may prove themselves (RFC 8414 section 2, <c>token_endpoint_auth_methods_supported</c>); null when the
    /// job gives the token endpoint itself, or the metadata do not say.
    /// </summary>
    /// <exception cref="RefusedException">The metadata cannot be had.</exception>
    public async Task<IReadOnlyList<string>?> ClientAuthsAsync(CancellationToken cancel)
    {
        if (identity.Issuer is null || identity.TokenEndpoint is not null)
            return null;
        return (await MetadataAsync(identity.Issuer, cancel)).TryGetProperty(
            "token_endpoint_auth_methods_supported", out var methods) && methods.ValueKind == JsonValueKind.Array
            ? [.. methods.EnumerateArray().Where(method => method.ValueKind == JsonValueKind.String).Select(method => method.GetString()!)]
            : null;
    }

    private async Task<JsonElement> MetadataAsync(Uri issuer, CancellationToken cancel) =>
        _metadata ??= await DiscoverAsync(issuer, cancel);

    private async Task<Uri> FindAsync(Uri? given, string field, string key, CancellationToken cancel) =>
        await TryFindAsync(given, field, cancel)
            ?? throw new RefusedException(new Refusal(
                Outcome.SignInRefused,
                $"identity '{identity.Name}' has no {key}{(identity.Issuer is null ? "" : $", and the metadata of {identity.Issuer} names none")}")
            {
                NextStep = $"add {key}: to the identity{(identity.Issuer is null ? ", or issuer:, from which it is found" : "")}",
            });

    private async Task<Uri?> TryFindAsync(Uri? given, string field, CancellationToken cancel)
    {
        if (given is not null || identity.Issuer is null)
            return given;
        if (!(await MetadataAsync(identity.Issuer, cancel)).TryGetProperty(field, out var value)
            || value.ValueKind != JsonValueKind.String
            || !Uri.TryCreate(value.GetString(), UriKind.Absolute, out var found))
            return null;

        // Http is for an issuer on this machine alone, and no other scheme is for anybody.
        var mayBeHttp = identity.Issuer is { Scheme: "http", IsLoopback: true };
        if (found.Scheme == "https" || (found.Scheme == "http" && found.IsLoopback && mayBeHttp))
            return found;
        throw new RefusedException(new Refusal(
            Outcome.SignInRefused,
            $"the metadata of {identity.Issuer} names {OneLine.Of(ShownAddress.Of(found))} as {field}, {(found.Scheme == "http" ? "which would carry credentials unencrypted" : "which is not an https address")}")
        {
            Cause = "the server's metadata is wrong, or was changed on the way",
            NextStep = "ask the administrator to correct the metadata, or declare the endpoint in the job file",
        });
    }

    private async Task<JsonElement> DiscoverAsync(Uri issuer, CancellationToken cancel)
    {
        var path = issuer.AbsolutePath.TrimEnd('/');
        Uri[] places =
        [
            new($"{issuer.GetLeftPart(UriPartial.Authority)}/.well-known/oauth-authorization-server{path}"),
            new($"{issuer.GetLeftPart(UriPartial.Path).TrimEnd('/')}/.well-known/openid-configuration"),
        ];
        RefusedException? last = null;
        foreach (var place in places)
        {
            try
            {
                return await ReadAsync(place, issuer, cancel);
            }
            catch (RefusedException error)
            {
                // What the first place said is told: the second is asked because many servers have only that one.
                last ??= error;
            }
        }

        throw last!;
    }

    private async Task<JsonElement> ReadAsync(Uri place, Uri issuer, CancellationToken cancel)
    {
        var request = new Request(HttpMethod.Get, place, [new("Accept", "application/json")]);
        try
        {
            using var answer = await sender.SendAsync(request, new Patience(s_timeout, LargestAnswer), cancel);
            requests.Answered(request, answer.Status, answer.Took);
            var read = TokenAnswer.Read(answer.Body);
            if (!answer.IsSuccess || read.Json is not { } metadata)
                throw new RefusedException(
                    Catalogue.Refuse(
                        new Facts(
                            Desk.SignIn,
                            answer.IsSuccess && answer.IsHtml ? Trouble.Html : answer.IsSuccess ? Trouble.NotUnderstood : Trouble.Status,
                            answer.Status),
                        $"the metadata of identity '{identity.Name}' could not be read: status {answer.Status}",
                        Quote.From(answer, redactor),
                        request.ToString()) with
                    {
                        NextStep = "compare issuer: with the server's documentation, or declare the endpoints in the job file",
                    });

            // RFC 8414 section 3.3: metadata that speaks for another issuer must not be used.
            var says = read.Text("issuer") ?? "";
            return says.TrimEnd('/') == issuer.AbsoluteUri.TrimEnd('/')
                ? metadata
                : throw new RefusedException(new Refusal(
                    Outcome.SignInRefused, $"the metadata at {place} is for the issuer '{says}', not for {issuer}")
                {
                    Cause = "issuer: is not spelt as the server spells it, or the address belongs to another server",
                    NextStep = $"set issuer: to {(says.Length > 0 ? says : "what the server's description says")} if that is the right one",
                });
        }
        catch (TransportException error)
        {
            if (error.MayHaveArrived)
                requests.Unanswered(request);
            throw new RefusedException(
                Catalogue.Refuse(
                    new Facts(Desk.SignIn, error.Trouble) { Words = error.Message },
                    $"the metadata of identity '{identity.Name}' could not be read: {error.Message}",
                    null,
                    request.ToString()),
                error);
        }
    }
}
