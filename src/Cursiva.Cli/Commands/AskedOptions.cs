using System.CommandLine;
using System.CommandLine.Parsing;
using Cursiva.Core.Drafts;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Cli.Commands;

/// <summary>
/// Who asks an address that no job declares: the options of its sign-in. Secrets are named by their sources, never written out.
/// </summary>
internal sealed class AskedOptions
{
    private readonly Option<string?> _issuer = new("--issuer")
    {
        Description = "the authorization server's issuer; its metadata give the endpoints",
        HelpName = "URL",
    };
    private readonly Option<string?> _tokenEndpoint = new("--token-endpoint")
    {
        Description = "the authorization server's token endpoint",
        HelpName = "URL",
    };
    private readonly Option<string?> _clientId = new("--client-id") { Description = "the client's id", HelpName = "ID" };
    private readonly Option<string?> _clientAuth = new("--client-auth")
    {
        Description = "how the client authenticates [client_secret_basic with a secret, private_key_jwt with a key]",
        HelpName = "METHOD",
    };
    private readonly Option<string?> _secret = new("--secret")
    {
        Description = "where the client secret is: env:NAME, file:PATH, kept:NAME",
        HelpName = "SOURCE",
    };
    private readonly Option<string?> _privateKey = new("--private-key")
    {
        Description = "where the private key for signing in is: file:PATH or another source",
        HelpName = "SOURCE",
    };
    private readonly Option<string?> _keyPassword = new("--key-password")
    {
        Description = "where the key's password is",
        HelpName = "SOURCE",
    };
    private readonly Option<string[]> _scope = new("--scope")
    {
        Description = "a scope to request; can be repeated",
        DefaultValueFactory = _ => [],
        AllowMultipleArgumentsPerToken = false,
    };
    private readonly Option<string?> _bearer = new("--bearer")
    {
        Description = "where an access token is that you already have",
        HelpName = "SOURCE",
    };
    private readonly Option<bool> _device = new("--device")
    {
        Description = "sign in as a person, with a code to enter on another device",
    };
    private readonly Option<string[]> _headerFrom = new("--header-from")
    {
        Description = "NAME=SOURCE, a header whose value is a secret, such as an API key; can be repeated",
        DefaultValueFactory = _ => [],
    };
    private readonly Option<string?> _trust = new("--trust")
    {
        Description = "a PEM file with the certificate authorities to trust",
        HelpName = "FILE",
    };

    private static readonly string[] s_signsIn = ["Authorization", "Proxy-Authorization", "Cookie"];

    public IEnumerable<Option> Options =>
        [
            _issuer,
            _tokenEndpoint,
            _clientId,
            _clientAuth,
            _secret,
            _privateKey,
            _keyPassword,
            _scope,
            _bearer,
            _device,
            _headerFrom,
            _trust,
        ];

    /// <summary>Whether a person signs in.</summary>
    public bool IsDevice(ParseResult parsed) => parsed.GetValue(_device);

    /// <summary>Tells a command line whose options do not go together.</summary>
    /// <param name="isAddress">Whether an address is asked; a job has its own identities.</param>
    public void Check(CommandResult result, bool isAddress)
    {
        var given = Options.Where(option => result.GetResult(option) is { Implicit: false }).Select(option => option.Name).ToList();
        if (!isAddress && given.Count > 0)
            result.AddError($"{given[0]} is only for an address; a job declares who signs in under identities:");
        foreach (var option in new[] { _secret, _privateKey, _keyPassword, _bearer })
        {
            if (result.GetValue(option) is { } source && SecretSource.TryParse(source) is null)
                result.AddError(
                    $"{option.Name} must say where the secret is (env:NAME, file:PATH, kept:NAME, systemd:NAME), not be the secret itself");
        }

        foreach (var pair in result.GetValue(_headerFrom)!)
        {
            if (pair.IndexOf('=', StringComparison.Ordinal) < 1
                || SecretSource.TryParse(pair[(pair.IndexOf('=', StringComparison.Ordinal) + 1)..]) is null)
                result.AddError(
                    $"--header-from must be NAME=SOURCE, such as X-Api-Key=env:API_KEY; use --header for a value that is not a secret");
        }

        foreach (var option in new[] { _issuer, _tokenEndpoint })
        {
            if (result.GetValue(option) is { } address && !AskedAddress.Is(address))
                result.AddError($"{option.Name} must be an address that begins with https://");
        }

        if (result.GetValue(_bearer) is not null
            && given.Except([_bearer.Name, _headerFrom.Name, _trust.Name]).FirstOrDefault() is { } other)
            result.AddError($"--bearer provides a token and {other} obtains one; use only one of them");
        else if (given.Contains(_issuer.Name) || given.Contains(_tokenEndpoint.Name))
            Needs(result, given.Contains(_clientId.Name), "--client-id", "the client's id");
        else if (given.Except([_bearer.Name, _headerFrom.Name, _trust.Name]).FirstOrDefault() is { } alone)
            result.AddError($"{alone} needs --token-endpoint or --issuer");
        if ((given.Contains(_issuer.Name) || given.Contains(_tokenEndpoint.Name)) && !result.GetValue(_device))
            Needs(
                result,
                given.Contains(_secret.Name) || given.Contains(_privateKey.Name) || result.GetValue(_clientAuth) == "none",
                "--secret or --private-key",
                "the client's secret or key");
    }

    /// <summary>Tells of headers that would put a secret into a job.</summary>
    /// <param name="headers">NAME=VALUE, as they were given.</param>
    public static void CheckHeaders(CommandResult result, IEnumerable<string> headers)
    {
        foreach (var name in headers.Select(pair => pair.Split('=')[0]).Where(
            name => s_signsIn.Contains(name, StringComparer.OrdinalIgnoreCase) || ShownAddress.IsMasked(name)))
            result.AddError(
                $"--header {name} would put a secret into the job; put it into a variable, and use --header-from {name}=env:NAME");
    }

    /// <summary>Who asks.</summary>
    /// <param name="headers">Headers that are not secrets.</param>
    public AskedSignIn Read(ParseResult parsed, IReadOnlyList<KeyValuePair<string, string>> headers) => new()
    {
        Issuer = parsed.GetValue(_issuer),
        TokenEndpoint = parsed.GetValue(_tokenEndpoint),
        ClientId = parsed.GetValue(_clientId),
        ClientAuth = parsed.GetValue(_clientAuth),
        Secret = parsed.GetValue(_secret),
        PrivateKey = parsed.GetValue(_privateKey),
        KeyPassword = parsed.GetValue(_keyPassword),
        Scope = [.. parsed.GetValue(_scope)!.SelectMany(scope => scope.Split(' ', StringSplitOptions.RemoveEmptyEntries))],
        Bearer = parsed.GetValue(_bearer),
        Device = parsed.GetValue(_device),
        Headers = headers,
        HeaderSources = [.. parsed.GetValue(_headerFrom)!.Select(pair => pair.Split('=', 2)).Select(
            pair => KeyValuePair.Create(pair[0], pair[1]))],
        Trust = parsed.GetValue(_trust),
    };

    private static void Needs(CommandResult result, bool isThere, string option, string what)
    {
        if (!isThere)
            result.AddError($"{option} is missing: {what}");
    }
}
