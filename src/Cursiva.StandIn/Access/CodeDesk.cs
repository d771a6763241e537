using System.Security.Cryptography;
using System.Text;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Access;

/// <summary>
/// The authorization endpoint and its codes (RFC 6749 section 4.1, RFC 7636). The person always agrees, unless asked to refuse.
/// </summary>
public sealed class CodeDesk(StandInOptions options, ClientDesk clients)
{
    /// <summary>The one address beside the loopback address that is registered.</summary>
    public const string Registered = "https://jobs.brackwater.example/signed-in";

    private readonly Lock _gate = new();
    private readonly Dictionary<string, Issued> _codes = new(StringComparer.Ordinal);

    /// <summary>Answers the browser.</summary>
    public Task AuthorizeAsync(HttpContext context)
    {
        var query = context.Request.Query;
        var redirect = query["redirect_uri"].ToString();
        if (clients.Find(query["client_id"].ToString()) is not { } client)
            return Problem.WriteAsync(context, 400, "invalid_client", "no such client");
        if (redirect != Registered
            && !(Uri.TryCreate(redirect, UriKind.Absolute, out var uri)
                && uri is { Scheme: "http", IsLoopback: true }
                && !options.Has("no-loopback")))
            return Problem.WriteAsync(
                context, 400, "redirect_uri_mismatch", $"the redirect_uri {redirect} is not registered for this client");

        var state = Uri.EscapeDataString(query["state"].ToString());
        var issuer = Uri.EscapeDataString($"{context.Request.Scheme}://{context.Request.Host}");
        if (options.Has("person-refuses"))
            context.Response.Redirect($"{redirect}?error=access_denied&error_description=the+person+said+no&state={state}&iss={issuer}");
        else
            context.Response.Redirect(
                $"{redirect}?code={Uri.EscapeDataString(Issue(client, redirect, query))}&state={state}&iss={(options.Has("other-issuer") ? "https%3A%2F%2Fother.example" : issuer)}");
        return Task.CompletedTask;
    }

    /// <summary>Takes a code.</summary>
    /// <exception cref="RefusedException">It is not good.</exception>
    public (string Subject, string Scope, bool Offline) Redeem(TokenParameters parameters, Client client)
    {
        lock (_gate)
        {
            if (!_codes.TryGetValue(parameters["code"], out var issued) || issued.Client != client.Id)
                throw new RefusedException("invalid_grant", "the authorization code is not known");
            if (issued.Used)
                throw new RefusedException("invalid_grant", "the authorization code was redeemed already");
            issued.Used = true;
            if (DateTimeOffset.UtcNow > issued.Expires || options.Has("code-expires"))
                throw new RefusedException("invalid_grant", "the authorization code has expired");
            if (issued.Redirect != parameters["redirect_uri"])
                throw new RefusedException("invalid_grant", "the redirect_uri differs from that of the authorization request");
            if (issued.Challenge != Base64UrlEncoder.Encode(SHA256.HashData(Encoding.ASCII.GetBytes(parameters["code_verifier"]))))
                throw new RefusedException("invalid_grant", "the code_verifier does not fit");
            return ("person-17", issued.Scope, issued.Scope.Split(' ').Contains("offline_access"));
        }
    }

    private string Issue(Client client, string redirect, IQueryCollection query)
    {
        var code = "code-" + Guid.NewGuid().ToString("n");
        lock (_gate)
            _codes[code] = new Issued(
                client.Id, redirect, query["code_challenge"].ToString(), query["scope"].ToString(), DateTimeOffset.UtcNow.AddMinutes(1));
        return code;
    }

    private sealed record Issued(string Client, string Redirect, string Challenge, string Scope, DateTimeOffset Expires)
    {
        public bool Used { get; set; }
    }
}
