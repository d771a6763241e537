using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>
/// How an API of a job encrypts and signs, and with which keys. A network is needed for a session key or a key set alone, and not where
/// keys are given.
/// </summary>
internal sealed class JobPayload : IDisposable
{
    private readonly Api _api;
    private readonly DeclaredIdentity? _identity;
    private readonly SignInServices _services;
    private readonly KeyRing _ring;
    private ExchangeKey? _session;

    private JobPayload(Api api, DeclaredIdentity? identity, SignInServices services)
    {
        (_api, _identity, _services) = (api, identity, services);
        _ring = new KeyRing(services, api.Trust);
    }

    /// <summary>How bodies are encrypted.</summary>
    /// <exception cref="RefusedException">They are not.</exception>
    public BodyEncryption Encryption =>
        _api.Encryption is { Cipher: not Ciphers.None } declared
            ? declared
            : throw Missing("encrypts nothing", "add encryption: to it, or omit JOB API and use --key");

    /// <summary>How requests are signed.</summary>
    /// <exception cref="RefusedException">They are not.</exception>
    public RequestSignature Signing =>
        _api.Signatures?.Requests ?? throw Missing(
            "signs no requests", "add signatures: { requests: … } to it, or omit JOB API and use --key");

    /// <summary>Reads the job and finds the API, or the pull or write of that name with its API.</summary>
    /// <param name="shown">Is told each step of a sign-in.</param>
    /// <exception cref="RefusedException">The job has none of that name.</exception>
    public static async Task<JobPayload> OpenAsync(
        CommandContext place, string path, string name, Action<PayloadStep> shown, CancellationToken cancel)
    {
        var job = place.ReadJob(path);
        var pull = job.Pulls.FirstOrDefault(known => known.Name == name);
        var write = job.Writes.FirstOrDefault(known => known.Name == name);
        if (job.Apis.GetValueOrDefault(pull?.Api ?? write?.Api ?? name) is not { } api)
        {
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"the job has no API, pull or write '{name}'")
            {
                NextStep =
                    $"name one of {string.Join(", ", job.Apis.Keys.Concat(job.Pulls.Select(known => known.Name)).Concat(job.Writes.Select(known => known.Name)))}",
            });
        }

        var identity = pull?.Identity ?? write?.Identity ?? api.Identity;
        return new JobPayload(
            api.For(pull?.Encryption ?? write?.Encryption, pull?.Signatures ?? write?.Signatures),
            identity is null ? null : job.Identities.GetValueOrDefault(identity),
            await place.OpenAsync(job, cancel) with { Shown = shown });
    }

    /// <summary>The schema of a pull or of the only step of a write that has one; null for none.</summary>
    public static string? SchemaOf(Job job, string? name)
    {
        string[] files = [.. job.Pulls
            .Where(pull => pull.Name == name || pull.Api == name)
            .Select(pull => pull.Schema)
            .Concat(
                job.Writes.Where(write => write.Name == name || write.Api == name).SelectMany(write => write.Steps).Select(
                    step => step.Schema))
            .OfType<string>()
            .Distinct()];
        return files is [var only] ? Path.Combine(job.Folder, only) : null;
    }

    /// <summary>The key that bodies are encrypted under.</summary>
    /// <param name="given">The keys of the command line; null for none.</param>
    public async Task<ExchangeKey> SealingKeyAsync(IReadOnlyList<ExchangeKey>? given, CancellationToken cancel) =>
        given is not null
            ? Only(given)
            : Encryption.Key is { } source ? await _ring.OnlyAsync(source, KeyUse.Encrypt, cancel) : await SessionAsync(
            cancel);

    /// <summary>The keys that answers are opened with.</summary>
    /// <param name="given">The keys of the command line; null for none.</param>
    public async Task<IReadOnlyList<ExchangeKey>> OpeningKeysAsync(IReadOnlyList<ExchangeKey>? given, CancellationToken cancel) =>
        given
            ?? ((Encryption.OpenWith ?? Encryption.Key) is { } source
                ? await _ring.ReadAsync(source, KeyUse.Open, cancel)
                : [await SessionAsync(cancel)]);

    /// <summary>The key that requests are signed with.</summary>
    /// <param name="given">The keys of the command line; null for none.</param>
    public async Task<ExchangeKey> SigningKeyAsync(IReadOnlyList<ExchangeKey>? given, CancellationToken cancel) =>
        given is not null ? Only(given) : await _ring.OnlyAsync(Signing.Key, KeyUse.Sign, cancel);

    /// <summary>The keys that answers or rows are verified under.</summary>
    /// <param name="given">The keys of the command line; null for none.</param>
    public async Task<IReadOnlyList<ExchangeKey>> VerifyingKeysAsync(IReadOnlyList<ExchangeKey>? given, CancellationToken cancel) =>
        given ?? await _ring.ReadAsync(
            (_api.Signatures?.Rows
                ?? _api.Signatures?.Answers
                ?? throw Missing("verifies nothing", "add signatures: to it, or omit JOB API and use --key")).Key,
            KeyUse.Verify,
            cancel);

    /// <summary>Signs a request as the API wants it.</summary>
    /// <param name="request">METHOD PATH.</param>
    /// <returns>The headers that carry the signature; the text of a JWS that is the body.</returns>
    /// <exception cref="RefusedException">The request is not a method and path.</exception>
    public string Sign(byte[] body, string request, ExchangeKey key, Action<PayloadStep> shown)
    {
        if (request.Split(' ', 2, StringSplitOptions.RemoveEmptyEntries) is not [var method, ['/', ..] path])
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"--request '{request}' is not METHOD PATH")
                {
                    NextStep = "write, for example, --request 'POST /declarations'",
                });
        var signed = RequestSigning.Sign(
            new Request(new HttpMethod(method), ApiAddress.Of(_api, path), []) { Body = body },
            Signing,
            key,
            _services.Clock.GetUtcNow(),
            shown);
        return signed.Headers.Count > 0
            ? string.Join('\n', signed.Headers.Select(header => $"{header.Key}: {header.Value}"))
            : System.Text.Encoding.UTF8.GetString(signed.Body!);
    }

    public void Dispose()
    {
        _ring.Dispose();
        _session?.Dispose();
    }

    private async Task<ExchangeKey> SessionAsync(CancellationToken cancel)
    {
        if (_identity is null)
            throw Missing("uses the session key of a sign-in, but no identity signs in", "give the key: --key SOURCE");
        using var source = new TokenSource(_identity, _services);
        var session = (await source.GetAsync(cancel)).SessionKey ?? throw Missing(
            "uses the session key of a sign-in, which returned none", "give the key: --key SOURCE");
        return _session = new ExchangeKey { Secret = [.. session.Bytes], IsPrivate = true };
    }

    private static ExchangeKey Only(IReadOnlyList<ExchangeKey> keys) =>
        keys is [var only] ? only : throw new PayloadException($"there are {keys.Count} keys; choose one with --key-id");

    private RefusedException Missing(string what, string next) =>
        new(new Refusal(Outcome.WrongCommandLine, $"API '{_api.Name}' {what}") { NextStep = next });
}
